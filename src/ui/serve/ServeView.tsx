"use client";

import { useState } from "react";
import { ProblemNote } from "../shared/ProblemNote";
import { useApp } from "../shared/queries";
import { Access } from "./Access";
import { CallIt } from "./CallIt";
import { Calls } from "./Calls";
import { LookSentences } from "./LookSentences";
import { PagePreview } from "./PagePreview";
import styles from "./ServeView.module.css";
import { useServing } from "./use-serving";

/** How an app is run: who may call it, its page with its look beside it, the calls as they come, and how to call it. */
export function ServeView({ slug }: { slug: string }) {
  const { data: app, error } = useApp(slug);
  const serving = useServing(slug);
  const [visitor, setVisitor] = useState("ada");
  const { served } = serving;
  const problem = error?.problem ?? serving.problem;
  return (
    <main className={styles.view} aria-busy={!served}>
      <h1 className="unseen">Serve</h1>
      {problem && <ProblemNote problem={problem} />}
      {served && app && (
        <>
          <Access app={app} served={served} allow={serving.allow} />
          <div className={styles.columns}>
            <section className={styles.page} aria-labelledby="the-page">
              <PagePreview app={app} served={served} />
              <LookSentences served={served} dress={serving.dress} />
            </section>
            <div className={styles.calls}>
              <Calls slug={slug} served={served} allow={serving.allow} />
              <CallIt app={app} served={served} visitor={visitor} onVisitor={setVisitor} />
            </div>
          </div>
        </>
      )}
    </main>
  );
}
