import { Button, Input, Select } from "antd";
import { useMemo, useState } from "react";
import { rawAnswerSchema, type WireProvider } from "@/contract/providers";
import type { Problem } from "@/core/reply/problem";
import { NotARequest, requestIn } from "@/core/wire/fitting/command";
import { type Finding, type Fitting, fit } from "@/core/wire/fitting/fit";
import { markedAnswer, markedRequest } from "@/core/wire/marks";
import { compileProfile, ProfileError } from "@/core/wire/profile";
import { shippedProfiles } from "@/core/wire/profiles/shipped";
import { CallFailed, call } from "../shared/api";
import { ProblemNote } from "../shared/ProblemNote";
import { exampleCall } from "./example-call";
import styles from "./FitSheet.module.css";
import { MarkedText } from "./MarkedText";
import { Reading } from "./TwoTexts";

const emptyFields = { request: "", answer: "", failure: "", name: "", address: "", model: "", window: "8192" };

/** Kept while another view is looked at, so that nothing pasted is lost. */
let kept = { fields: emptyFields, answers: {} as Record<string, string> };

/** Wires an API that nobody here has seen: from a command that works and its answer to a provider with its profile. */
export function FitSheet({ onWire }: { onWire: (provider: WireProvider) => Promise<void> }) {
  const [{ fields, answers }, setState] = useState(kept);
  const [problem, setProblem] = useState<Problem>();
  const [isCalling, setCalling] = useState(false);
  const put = (next: typeof kept) => {
    kept = next;
    setState(next);
  };
  const set = (change: Partial<typeof fields>) => put({ answers, fields: { ...fields, ...change } });
  const fitted = useMemo(() => fittingOf(fields, answers), [fields, answers]);

  const makeCall = async () => {
    setProblem(undefined);
    setCalling(true);
    try {
      const { method, url, headers, user, body } = requestIn(fields.request);
      const answer = await call("POST", "/api/bench/pasted-call", rawAnswerSchema, {
        method,
        url,
        headers,
        body,
        ...(user === undefined ? {} : { user }),
      });
      if (answer.problem) setProblem(answer.problem);
      const text = `HTTP/1.1 ${answer.status}\ncontent-type: ${answer.contentType}\n\n${answer.text}`;
      if (answer.status !== null && answer.status < 300) set({ answer: text });
      else if (answer.status !== null) {
        set({ failure: text });
        setProblem({
          kind: "bad-reply",
          detail: `It answered with status ${answer.status}.`,
          advice:
            "Its words are kept below as what an error looks like. Put the request right, and make the call again.",
        });
      }
    } catch (error) {
      if (error instanceof CallFailed) setProblem(error.problem);
      else if (error instanceof NotARequest)
        setProblem({
          kind: "bad-request",
          detail: error.message,
          advice: "Paste a curl command that works in a terminal.",
        });
      else throw error;
    }
    setCalling(false);
  };

  const wire = async () => {
    if (!fitted.fitting) return;
    const { provider, profile } = fitted.fitting;
    await onWire({
      name: fields.name,
      address: fields.address || provider.address,
      profile: profile as never,
      credential: provider.credential,
      models: [
        {
          name: fields.model || provider.model,
          window: Math.max(Number(fields.window) || 8192, 1),
          price: { input: 0, output: 0, currency: "EUR" },
        },
      ],
    });
  };
  const { fitting, wrong } = fitted;
  const isReady =
    fitting &&
    fitting.questions.length === 0 &&
    fields.name.trim() !== "" &&
    (fields.address || fitting.provider.address) !== "" &&
    (fields.model || fitting.provider.model) !== "";
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
            onChange={(event) => set({ request: event.target.value })}
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
            onChange={(event) => set({ answer: event.target.value })}
          />
        </label>
      </div>
      <div className={styles.row}>
        <Button disabled={fields.request.trim() === "" || isCalling} onClick={() => void makeCall()}>
          {isCalling ? "Calling" : "Make the call"}
        </Button>
        <span className={styles.quiet}>The key is read from the environment where the command names a variable.</span>
        <details>
          <summary>and what an error looks like</summary>
          <Input.TextArea
            aria-label="An answer that is an error"
            value={fields.failure}
            autoSize={{ minRows: 2, maxRows: 8 }}
            spellCheck={false}
            onChange={(event) => set({ failure: event.target.value })}
          />
        </details>
      </div>
      {problem && <ProblemNote problem={problem} />}
      {wrong && fields.request.trim() !== "" && (
        <p className={styles.wrong} role="status">
          {wrong}
        </p>
      )}
      {fitting && (
        <>
          <Questions
            fitting={fitting}
            answers={answers}
            onAnswer={(id, answer) => put({ fields, answers: { ...answers, [id]: answer } })}
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
              inputMode="numeric"
              addonAfter="tokens"
              value={fields.window}
              onChange={(event) => set({ window: event.target.value })}
            />
            <Button htmlType="submit" type="primary" disabled={!isReady}>
              Wire it
            </Button>
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
                models: [
                  { name: fields.model || "model", window: 8192, price: { input: 0, output: 0, currency: "EUR" } },
                ],
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

function fittingOf(
  { request, answer, failure }: typeof emptyFields,
  answers: Record<string, string>,
): { fitting?: Fitting; wrong?: string } {
  try {
    if (answer.trim() === "") {
      requestIn(request);
      return { wrong: "The command can be read. Now its answer: paste it, or have the call made." };
    }
    return { fitting: fit({ request, answer, failure, answers }) };
  } catch (error) {
    if (error instanceof NotARequest) return { wrong: error.message };
    throw error;
  }
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
              exampleCall(profile, fitting.provider.model, fitting.provider.credential.kind !== "none"),
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
