import { Button, Input } from "antd";
import { useMemo, useState } from "react";
import type { Secret } from "@/contract/credentials";
import type { WireProvider } from "@/contract/providers";
import { longestCase, providers } from "@/contract/providers";
import type { Problem } from "@/core/problem/problem";
import { unknownModel } from "@/core/provider/model";
import { type Fitted, type Fitting, fit } from "@/core/wire/fitting/fit";
import type { PastedSecret } from "@/core/wire/fitting/key";
import { requestIn } from "@/core/wire/pasted/request";
import { hideKnown, hideSecrets, markOf, revealed } from "@/core/wire/pasted/secrets";
import { shippedProfiles } from "@/core/wire/profiles/shipped";
import { Action } from "../../shared/Action";
import { server } from "../../shared/api";
import { many } from "../../shared/format";
import { ProblemNote } from "../../shared/ProblemNote";
import { useChange } from "../../shared/use-change";
import styles from "./FitSheet.module.css";
import { Proposal } from "./Proposal";
import { Questions } from "./Questions";

const emptyFields = {
  request: "",
  answer: "",
  failure: "",
  name: "",
  address: "",
  model: "",
  window: "",
  signing: "",
  /** Values of the provider's own, by their names. */
  values: {} as Record<string, string>,
};

type Secrets = Readonly<Record<string, string>>;

/**
 * Kept while another view is looked at, so that nothing pasted is lost. The command stands here without its
 * secrets, which stay in the memory of this tab until the provider is wired, and are shown nowhere.
 */
const nothing = { fields: emptyFields, answers: {} as Record<string, string>, secrets: {} as Secrets };
let kept = nothing;

/** Wires an API that nobody here has seen: from a command that works and its answer to a provider with its profile. */
export function FitSheet({ onWire }: { onWire: (provider: WireProvider) => Promise<boolean> }) {
  const [{ fields, answers, secrets }, setState] = useState(kept);
  const [problem, setProblem] = useState<Problem>();
  const put = (next: typeof kept) => {
    kept = next;
    setState(next);
  };
  const set = (change: Partial<typeof fields>) => put({ ...kept, fields: { ...kept.fields, ...change } });
  /** Takes the command as it stands now, with every secret in it hidden. */
  const setRequest = (typed: string) => {
    const hidden = hideSecrets(typed, kept.secrets);
    // what was hidden before stays known, so that an edit which is taken back finds it again
    put({ ...kept, fields: { ...kept.fields, request: hidden.text }, secrets: { ...kept.secrets, ...hidden.secrets } });
  };
  const setAnswer = (text: string) => set({ answer: hideKnown(text, kept.secrets) });
  const fitted = useMemo(() => fittedOf(fields, answers), [fields, answers]);

  const calling = useChange("The call", async () => {
    setProblem(undefined);
    const read = requestIn(revealed(fields.request, secrets));
    if (read.kind === "none") {
      setProblem({ kind: "bad-request", detail: read.why, advice: "Paste a curl command that works in a terminal." });
      return;
    }
    const { method, url, headers, user, body } = read.request;
    const answer = await server.send(providers.callPasted, {
      body: { method, url, headers, body, secrets: Object.values(secrets), user },
    });
    if (answer.problem) setProblem(answer.problem);
    const text = `HTTP/1.1 ${answer.status}\ncontent-type: ${answer.contentType}\n\n${answer.text}`;
    if (answer.status !== null && answer.status < 300) setAnswer(text);
    else if (answer.status !== null) {
      set({ failure: hideKnown(text, secrets) });
      setProblem({
        kind: "bad-reply",
        detail: `It answered with status ${answer.status}.`,
        advice: "Its words are kept below as what an error looks like. Put the request right, and make the call again.",
      });
    }
  });
  const failure = problem ?? calling.problem;

  const wire = async () => {
    if (fitted.kind !== "fitted") return;
    const { provider, profile } = fitted.fitting;
    const { credential } = provider;
    const extras = Object.entries(provider.extras).map(([name, secret]) => [name, secretOf(secret, secrets)]);
    const isWired = await onWire({
      name: fields.name,
      address: fields.address || provider.address,
      profile: profile as never,
      credential:
        credential.kind === "none" ? credential : { ...credential, secret: secretOf(credential.secret, secrets) },
      extras: Object.fromEntries(extras),
      values: { ...provider.values, ...typedValues(fields) },
      ...(fields.signing.trim() === "" ? {} : { signing: fields.signing.trim() }),
      cases: [fields.answer, fields.failure].filter((each) => each.trim() !== "" && each.length <= longestCase),
      models: [unknownModel(fields.model || provider.model, windowIn(fields))],
    });
    if (isWired) kept = nothing;
  };
  const fitting = fitted.kind === "fitted" ? fitted.fitting : undefined;
  const hiddenCount = Object.keys(secrets).filter((name) => fields.request.includes(markOf(name))).length;
  const answerTo = (id: string, answer: string) => put({ ...kept, answers: { ...kept.answers, [id]: answer } });
  const missing = fitting ? missingFor(fitting, fields) : [];
  return (
    <section className={styles.fit} aria-label="Fit from a curl">
      <h2>Fit from a curl</h2>
      <p className={styles.quiet}>
        Paste a command that works, best with a system prompt and two or three messages in it, and the answer that it
        gets. The bench proposes the whole profile; what it can't know, it asks.
      </p>
      <div className={styles.pastes}>
        <label>
          <b>A command that works</b>
          <Input.TextArea
            aria-label="A command that works"
            value={fields.request}
            autoSize={{ minRows: 5, maxRows: 14 }}
            spellCheck={false}
            placeholder={"curl http://127.0.0.1:4611/models/pan-clear/speak -H \"x-pan-key: $SALTPAN_KEY\" -d '{ … }'"}
            onChange={(event) => {
              const typed = event.target.value;
              // while one types it is hidden when the field is left, so that the cursor stays where it is
              if (Math.abs(typed.length - fields.request.length) > 1) setRequest(typed);
              else set({ request: typed });
            }}
            onBlur={(event) => setRequest(event.target.value)}
          />
        </label>
        <label>
          <b>Its answer</b>
          <Input.TextArea
            aria-label="Its answer"
            value={fields.answer}
            autoSize={{ minRows: 5, maxRows: 14 }}
            spellCheck={false}
            placeholder="Paste it as it came, or have the call made."
            onChange={(event) => setAnswer(event.target.value)}
          />
        </label>
      </div>
      <div className={styles.row}>
        <Button disabled={fields.request.trim() === "" || calling.isRunning} onClick={() => calling.run()}>
          {calling.isRunning ? "Calling" : "Make the call"}
        </Button>
        <span className={styles.quiet}>
          {hiddenCount === 0
            ? "The key is read from the environment where the command names a variable."
            : `${many(hiddenCount, "secret")} in it ${hiddenCount === 1 ? "is" : "are"} hidden: sealed when it is wired, and shown nowhere.`}
        </span>
        <details>
          <summary>and what an error looks like</summary>
          <Input.TextArea
            aria-label="An answer that is an error"
            value={fields.failure}
            autoSize={{ minRows: 2, maxRows: 8 }}
            spellCheck={false}
            onChange={(event) => set({ failure: hideKnown(event.target.value, secrets) })}
          />
        </details>
      </div>
      {failure && <ProblemNote problem={failure} />}
      {fitted.kind === "none" && fields.request.trim() !== "" && (
        <p className={styles.wrong} role="status">
          {fitted.why}
        </p>
      )}
      {fitting && (
        <>
          <Questions fitting={fitting} answers={answers} onAnswer={answerTo} />
          <Proposal
            fitting={fitting}
            request={fields.request}
            answer={fields.answer}
            answers={answers}
            onAnswer={answerTo}
          />
          <form
            className={styles.wire}
            onSubmit={(event) => {
              event.preventDefault();
              void wire();
            }}
          >
            <Input
              aria-label="Name"
              placeholder="Name of the provider"
              value={fields.name}
              onChange={(event) => set({ name: event.target.value })}
            />
            <Input
              aria-label="Address"
              placeholder={fitting.provider.address || "http://…"}
              value={fields.address}
              onChange={(event) => set({ address: event.target.value })}
            />
            <Input
              aria-label="Model"
              placeholder={fitting.provider.model || "Name of a model"}
              value={fields.model}
              onChange={(event) => set({ model: event.target.value })}
            />
            <Input
              aria-label="Context window in tokens"
              placeholder="8,192, a guess"
              inputMode="numeric"
              addonAfter="tokens"
              value={fields.window}
              onChange={(event) => set({ window: event.target.value })}
            />
            {Object.entries(fitting.provider.values).map(([name, value]) => (
              <Input
                key={name}
                aria-label={`Value ${name}`}
                addonBefore={name}
                placeholder={value}
                value={fields.values[name] ?? ""}
                onChange={(event) => set({ values: { ...fields.values, [name]: event.target.value } })}
              />
            ))}
            {fitting.provider.signs && (
              <Input
                aria-label="Command that signs each request"
                placeholder="sign --key ferry.pem"
                addonBefore="signed by"
                value={fields.signing}
                onChange={(event) => set({ signing: event.target.value })}
              />
            )}
            <Button htmlType="submit" type="primary" disabled={missing.length > 0} aria-describedby="wire-waits">
              Wire it
            </Button>
            <span id="wire-waits" className={styles.quiet} role="status">
              {missing.length > 0 && `waits for ${missing.join(", ")}`}
            </span>
          </form>
        </>
      )}
      <p className={styles.quiet}>
        Without a command at hand:{" "}
        {Object.entries(shippedProfiles).map(([name]) => (
          <Action
            className={styles.shipped}
            key={name}
            onClick={() =>
              void onWire({
                name: fields.name || name,
                address: fields.address || "http://127.0.0.1:8080",
                profile: name,
                credential: { kind: "none" },
                models: [unknownModel(fields.model || "model")],
              })
            }
          >
            {name}
          </Action>
        ))}{" "}
        wires one with a profile that ships, to be corrected afterwards.
      </p>
    </section>
  );
}

/** What is still to be said before a provider can be wired. */
function missingFor({ questions, provider }: Fitting, fields: typeof emptyFields): string[] {
  return [
    questions.length > 0 && (questions.length === 1 ? "an answer to the question" : "answers to the questions"),
    fields.name.trim() === "" && "a name",
    (fields.address || provider.address) === "" && "an address",
    (fields.model || provider.model) === "" && "the name of a model",
    Number.isNaN(windowIn(fields)) && "a window in whole tokens, or none",
  ].filter((each) => each !== false);
}

/** The values that were typed; one that was emptied is as it was pasted. */
function typedValues({ values }: typeof emptyFields): Record<string, string> {
  return Object.fromEntries(
    Object.entries(values).flatMap(([name, value]) => (value.trim() === "" ? [] : [[name, value.trim()]])),
  );
}

/** The window that was typed: null where none was, and no number where it is none that a model can have. */
function windowIn({ window }: typeof emptyFields): number | null {
  if (window.trim() === "") return null;
  return /^[1-9]\d{0,8}$/.test(window.trim()) ? Number(window) : Number.NaN;
}

function fittedOf({ request, answer, failure }: typeof emptyFields, answers: Record<string, string>): Fitted {
  if (answer.trim() !== "") return fit({ request, answer, failure, answers });
  const read = requestIn(request);
  if (read.kind === "none") return read;
  return { kind: "none", why: "The command can be read. Now its answer: paste it, or have the call made." };
}

/** A secret as it goes to the server, which seals it. */
function secretOf(secret: PastedSecret, secrets: Secrets): Secret {
  if ("variable" in secret) return secret;
  if ("hidden" in secret) return { value: secrets[secret.hidden] ?? "" };
  const pair = new TextEncoder().encode(revealed(secret.pair, secrets));
  return { value: btoa(String.fromCharCode(...pair)) };
}
