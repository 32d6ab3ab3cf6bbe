import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { longestCase, mostCases, providers } from "@/contract/providers";
import { wordFor } from "@/core/problem/problem";
import { readingOf } from "@/core/wire/fitting/fit";
import { answerIn } from "@/core/wire/pasted/answer";
import type { CompiledProfile } from "@/core/wire/profile";
import type { WrittenProfile } from "@/core/wire/profile-schema";
import { Action } from "../shared/Action";
import { server } from "../shared/api";
import { keys } from "../shared/queries";
import { useChange } from "../shared/use-change";
import styles from "./Cases.module.css";
import { Reading } from "./Reading";

/** The answers that a provider's profile has to read: those that it was fitted from, and those that were kept since. */
export function useCases(provider: string) {
  const query = useQuery({
    queryKey: keys.cases(provider),
    queryFn: () => server.send(providers.cases, { id: provider }),
  });
  const all = query.data?.cases ?? [];
  const keeping = useChange(
    "Keeping the cases",
    (cases: string[]) => server.send(providers.setCases, { id: provider, body: { cases } }),
    [keys.cases(provider)],
  );
  return {
    all,
    canKeep: (text: string) => all.length < mostCases && text.length <= longestCase,
    has: (text: string) => all.some((each) => each.endsWith(text)),
    keep: keeping.run,
  };
}

/** Each case as the profile reads it now, so that an edit which breaks one of them shows at once. */
export function Cases({ provider, profile }: { provider: string; profile: CompiledProfile }) {
  const { all, keep } = useCases(provider);
  if (all.length === 0) return null;
  return (
    <section aria-label="Cases" className={styles.cases}>
      <b>What it has to read</b>
      <ol>
        {all.map((text, at) => (
          <li key={`${at} ${text.length}`}>
            <Case text={text} profile={profile} />
            <Action aria-label={`delete case ${at + 1}`} onClick={() => keep(all.filter((_, other) => other !== at))}>
              delete it
            </Action>
          </li>
        ))}
      </ol>
    </section>
  );
}

function Case({ text, profile }: { text: string; profile: CompiledProfile }) {
  const answer = useMemo(() => answerIn(text), [text]);
  const events = useMemo(() => readingOf(profile.source as WrittenProfile, answer), [answer, profile]);
  const [first] = events;
  if (answer.status < 300 || first?.event !== "problem") return <Reading events={events} />;
  // an answer that reports an error is read well where its kind and its words are found
  return (
    <p className={styles.failure}>
      <b>Read as</b> an error, {wordFor(first.data.kind)}: {first.data.detail}
    </p>
  );
}
