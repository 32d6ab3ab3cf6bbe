import { useQuery } from "@tanstack/react-query";
import { type NamedSecret, secrets } from "@/contract/secrets";
import { secretsIn } from "@/core/tools/secrets";
import type { Tool } from "@/core/tools/tool";
import { Action } from "../../shared/Action";
import { server } from "../../shared/api";
import { SecretValue } from "../../shared/inline/SecretValue";
import { ProblemNote } from "../../shared/ProblemNote";
import { keys } from "../../shared/queries";
import { SecretSentence } from "../../shared/sentences/SecretSentence";
import { useChange } from "../../shared/use-change";
import styles from "./ToolsSentence.module.css";

type Given = Parameters<Parameters<typeof SecretSentence>[0]["onChange"]>[0];

/** The secrets that headers of an app's tools name, and where each is from: a bundle that is taken in gets at none. */
export function ToolSecrets({ app, tools }: { app: string; tools: readonly Tool[] }) {
  const named = secretsIn(tools);
  const { data } = useQuery({
    queryKey: keys.secrets(app),
    queryFn: () => server.send(secrets.list, { slug: app }),
  });
  const touched = [keys.secrets(app), keys.preflight(app)];
  const giving = useChange(
    "The secret",
    ({ name, secret }: { name: string; secret: Given }) => server.send(secrets.give, { slug: app, name, body: secret }),
    touched,
  );
  const taking = useChange("The secret", (name: string) => server.send(secrets.take, { slug: app, name }), touched);
  if (!data) return null;
  const given = new Map(data.secrets.map((each) => [each.name, each]));
  const all = [...new Set([...named, ...given.keys()])];
  if (all.length === 0) return null;
  const problem = giving.problem ?? taking.problem;
  return (
    <>
      <ul className={styles.secrets} aria-label="Secrets of tools">
        {all.map((name) => (
          <li key={name}>
            <code>${name}</code>
            <OneSecret
              name={name}
              given={given.get(name)}
              isNamed={named.includes(name)}
              onGive={(secret) => giving.run({ name, secret })}
              onTake={() => taking.run(name)}
            />
          </li>
        ))}
      </ul>
      {problem && <ProblemNote problem={problem} />}
    </>
  );
}

function OneSecret({
  name,
  given,
  isNamed,
  onGive,
  onTake,
}: {
  name: string;
  given: NamedSecret | undefined;
  /** Whether a header of a tool names it. */
  isNamed: boolean;
  onGive: (secret: Given) => void;
  onTake: () => void;
}) {
  if (!given)
    return (
      <>
        {" "}
        <span data-standing="bad">is not given to this app yet</span>:{" "}
        <Action onClick={() => onGive({ variable: name })}>from the variable {name}</Action>
        {" · "}
        <SecretValue
          label={`The secret ${name}, typed once`}
          asks="type it once"
          keeps="seal it"
          onChange={(value) => onGive({ value })}
        />
      </>
    );
  return (
    <>
      {" is a secret"}
      <SecretSentence label={`secret ${name}`} secret={given.secret} onChange={onGive} />
      {" · "}
      <Action onClick={onTake}>take it away</Action>
      {!isNamed && " (no header names it)"}
    </>
  );
}
