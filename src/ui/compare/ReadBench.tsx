import type { ReactNode } from "react";
import type { Problem } from "@/core/problem/problem";
import { useLive } from "../shared/candidate/use-live";
import { ProblemNote } from "../shared/ProblemNote";
import { useApp, useProviders } from "../shared/queries";
import styles from "./Compare.module.css";
import type { Bench } from "./use-candidates";

/** Reads what a view of Compare stands on, and shows it. What was read once stays, while the server is away too. */
export function ReadBench({
  slug,
  isRead,
  failure,
  children,
}: {
  slug: string;
  /** Whether what the address names was read, and why it could not be. */
  isRead: boolean;
  failure: { problem: Problem } | null;
  children: (bench: Bench) => ReactNode;
}) {
  const app = useApp(slug);
  const providers = useProviders();
  const live = useLive(slug, app.data?.liveRevision);
  if (app.data && providers.data && live.data && isRead)
    return children({ app: app.data, providers: providers.data.providers, live: live.data });
  const failed = app.error ?? providers.error ?? live.error ?? failure;
  if (!failed) return <main className={styles.view} aria-busy="true" />;
  return (
    <main className={styles.failed}>
      <ProblemNote problem={failed.problem} />
    </main>
  );
}
