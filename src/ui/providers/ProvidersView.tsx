"use client";

import Link from "next/link";
import { useSearchParams } from "next/navigation";
import { useState } from "react";
import type { Provider } from "@/contract/providers";
import { wordFor } from "@/core/problem/problem";
import { problemIn } from "../shared/api";
import { many } from "../shared/format";
import { ProblemNote } from "../shared/ProblemNote";
import { providerPlaceIn } from "../shared/provider-parts";
import { useApp, useProviders, useStanding } from "../shared/queries";
import { OpenProvider } from "./OpenProvider";
import styles from "./ProvidersView.module.css";
import { WireAnother } from "./WireAnother";

const wireAnother = "wire another";

/** The providers that are wired, how each stands, and the way to wire another. */
export function ProvidersView() {
  const providers = useProviders();
  const place = providerPlaceIn(useSearchParams());
  const [chosen, setChosen] = useState<string>();
  const all = providers.data?.providers ?? [];
  const wanted = all.find(({ slug }) => slug === place?.provider);
  const open = chosen === wireAnother ? undefined : (all.find(({ id }) => id === chosen) ?? wanted ?? all[0]);
  return (
    <main className={styles.view} aria-busy={providers.isPending}>
      <h1 className="unseen">Providers</h1>
      <nav className={styles.list} aria-label="Providers">
        {place?.app && <Back app={place.app} conversation={place.conversation} />}
        {all.map((provider) => (
          <button
            type="button"
            key={provider.id}
            aria-current={provider === open ? "true" : undefined}
            onClick={() => setChosen(provider.id)}
          >
            {provider.name}
            <ShortStanding provider={provider} />
          </button>
        ))}
        <button
          type="button"
          className={styles.wire}
          aria-current={open ? undefined : "true"}
          onClick={() => setChosen(wireAnother)}
        >
          {all.length === 0 ? "Wire the first" : "Wire another"}
        </button>
      </nav>
      <section className={styles.main} aria-label={open?.name ?? "Wire a model API"}>
        {providers.error && <ProblemNote problem={problemIn(providers.error, "The list of providers")} />}
        {open && (
          <OpenProvider
            key={open.id}
            provider={open}
            part={open === wanted ? place?.part : undefined}
            onOpen={setChosen}
          />
        )}
        {/* what is typed there stays, also where the list could not be read again */}
        {providers.data && !open && <WireAnother onWired={setChosen} isFirst={all.length === 0} />}
      </section>
    </main>
  );
}

/** The way back to the app that one came from. */
function Back({ app: slug, conversation }: { app: string; conversation: string | undefined }) {
  const { data: app } = useApp(slug);
  const query = conversation === undefined ? "" : `?${new URLSearchParams({ conversation })}`;
  return (
    <Link className={styles.back} href={`/apps/${encodeURIComponent(slug)}/build${query}`}>
      back to {app?.name ?? slug}
    </Link>
  );
}

function ShortStanding({ provider }: { provider: Provider }) {
  const { data } = useStanding(provider);
  const off = provider.models.filter(
    ({ name, isOn }) => isOn && data?.models.some((each) => each.name === name && each.isOn === false),
  );
  const bad = provider.probe?.steps.filter(({ outcome }) => outcome === "bad").length ?? 0;
  if (data?.problem) return <small data-standing="bad">{wordFor(data.problem.kind)}</small>;
  if (off.length > 0)
    return <small data-standing="caution">not switched on: {off.map(({ name }) => name).join(", ")}</small>;
  const word = data === undefined ? "asking" : bad > 0 ? `probe: ${bad} failed` : "answers";
  return (
    <small>
      {many(provider.models.length, "model")} · {word}
    </small>
  );
}
