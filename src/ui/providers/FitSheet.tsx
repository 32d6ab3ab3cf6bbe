import { Button, Input, Select } from "antd";
import { useMemo, useState } from "react";
import type { Secret } from "@/contract/credentials";
import type { WireProvider } from "@/contract/providers";
import { providers } from "@/contract/providers";
import type { Problem } from "@/core/problem/problem";
import { unknownModel } from "@/core/provider/model";
import { type Finding, type Fitted, type Fitting, fit } from "@/core/wire/fitting/fit";
import type { PastedSecret } from "@/core/wire/fitting/key";
import { markedAnswer, markedRequest } from "@/core/wire/marks/marks";
import { requestIn } from "@/core/wire/pasted/request";
import { hideKnown, hideSecrets, markOf, revealed } from "@/core/wire/pasted/secrets";
import { compileProfile, ProfileError } from "@/core/wire/profile";
import { shippedProfiles } from "@/core/wire/profiles/shipped";
import { server } from "../shared/api";
import { many } from "../shared/format";
import { ProblemNote } from "../shared/ProblemNote";
import { useChange } from "../shared/use-change";
import { exampleCall } from "./example-call";
import styles from "./FitSheet.module.css";
import { MarkedText } from "./MarkedText";
import { Reading } from "./TwoTexts";

const emptyFields = { request: "", answer: "", failure: "", name: "", address: "", model: "", window: "" };

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
      models: [unknownModel(fields.model || provider.model, windowIn(fields))],
    });
    if (isWired) kept = nothing;
  };
  const fitting = fitted.kind === "fitted" ? fitted.fitting : undefined;
  const hiddenCount = Object.keys(secrets).filter((name) => fields.request.includes(markOf(name))).length;
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
          <Questions
            fitting={fitting}
            answers={answers}
            onAnswer={(id, answer) => put({ ...kept, answers: { ...answers, [id]: answer } })}
          />
          <Proposal fitting={fitting} answer={fields.answer} />
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
          <button
            type="button"
            className={`link ${styles.shipped}`}
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
          </button>
        ))}{" "}
        wires one with a profile that ships, to be put right afterwards.
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

/** What fitting can't know, for the developer to say. */
function Questions({
  fitting,
  answers,
  onAnswer,
}: {
  fitting: Fitting;
  answers: Record<string, string>;
  onAnswer: (id: string, answer: string) => void;
}) {
  const answered = Object.entries(answers).filter(
    ([id, answer]) => answer !== "" && fitting.questions.every((each) => each.id !== id),
  );
  if (fitting.questions.length === 0 && answered.length === 0) return null;
  return (
    <ul className={styles.questions} aria-label="What it can't know">
      {fitting.questions.map(({ id, ask, choices }) => (
        <li key={id}>
          <span>{ask}</span>{" "}
          {choices ? (
            <Select
              aria-label={ask}
              style={{ width: 180 }}
              placeholder="choose"
              options={choices.map((value) => ({ value, label: value }))}
              onChange={(value) => onAnswer(id, value)}
            />
          ) : (
            <Input
              aria-label={ask}
              style={{ width: 180 }}
              defaultValue={answers[id] ?? ""}
              onBlur={(event) => onAnswer(id, event.target.value)}
              onPressEnter={(event) => onAnswer(id, event.currentTarget.value)}
            />
          )}
        </li>
      ))}
      {answered.map(([id, answer]) => (
        <li key={id}>
          {id}: <b>{answer}</b>, as you said.{" "}
          <button type="button" className="link" onClick={() => onAnswer(id, "")}>
            take it back
          </button>
        </li>
      ))}
    </ul>
  );
}

function Proposal({ fitting, answer }: { fitting: Fitting; answer: string }) {
  const profile = useMemo(() => {
    try {
      return compileProfile(fitting.profile);
    } catch (error) {
      if (error instanceof ProfileError) return undefined;
      throw error;
    }
  }, [fitting.profile]);
  const sides: [Finding["in"], string][] = [
    ["request", "In the request"],
    ["answer", "In the answer"],
  ];
  return (
    <>
      {profile && (
        <div className={styles.pastes}>
          <MarkedText
            label="The request as it would be made"
            segments={markedRequest(
              profile,
              exampleCall(profile, fitting.provider),
              fitting.provider.address.replace(/^https?:\/\//, ""),
            )}
          />
          <div>
            <MarkedText
              label="The answer as it is read"
              segments={markedAnswer(profile, answer.replace(/^HTTP\/[\s\S]*?\r?\n\r?\n/, ""))}
            />
            <Reading events={fitting.reading} />
          </div>
        </div>
      )}
      <div className={styles.pastes}>
        {sides.map(([side, title]) => (
          <div key={side}>
            <b>{title}</b>
            <ul className={styles.findings}>
              {fitting.findings
                .filter((each) => each.in === side)
                .map(({ what, where, certainty }) => (
                  <li key={`${what} ${where}`}>
                    {what}: <code>{where}</code>
                    {certainty === "likely" && <small data-standing="caution"> likely, not sure</small>}
                  </li>
                ))}
            </ul>
          </div>
        ))}
      </div>
      {fitting.missing.length > 0 && (
        <>
          <b>What it could not find</b>
          <ul className={styles.findings}>
            {fitting.missing.map((each) => (
              <li key={each}>{each}</li>
            ))}
          </ul>
        </>
      )}
    </>
  );
}
