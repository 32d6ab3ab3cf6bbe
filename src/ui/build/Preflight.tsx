import { useQuery } from "@tanstack/react-query";
import Link from "next/link";
import type { App } from "@/contract/apps";
import { apps } from "@/contract/apps";
import { variablesIn } from "@/core/revision/variables";
import { Action } from "../shared/Action";
import { server } from "../shared/api";
import { keys } from "../shared/queries";
import styles from "./Preflight.module.css";

/** What is missing before the app can answer, each with its next step; nothing where all is there. */
export function Preflight({ app: { slug, draft } }: { app: App }) {
  const { data, refetch } = useQuery({
    queryKey: [
      ...keys.preflight(slug),
      draft.provider,
      draft.model,
      draft.fallbacks,
      draft.memory.kind === "summary" ? draft.memory.by : undefined,
      variablesIn(draft.prompt),
      draft.variables,
      draft.samples,
      draft.off,
      draft.tools,
    ],
    queryFn: () => server.send(apps.preflight, { slug }),
    staleTime: 30_000,
    refetchOnMount: "always",
  });
  if (!data || data.items.length === 0) return null;
  return (
    <section className={styles.items} aria-label="Before this app can answer">
      {data.items.map(({ what, next, where, blocks }) => (
        <p key={what} data-blocks={blocks}>
          <b>{blocks ? "Before it can answer:" : "Also:"}</b> {what} {next}{" "}
          {where === "providers" && <Link href="/providers">Providers</Link>}
        </p>
      ))}
      <Action onClick={() => void refetch()}>look again</Action>
    </section>
  );
}
