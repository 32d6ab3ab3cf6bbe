import { useQuery } from "@tanstack/react-query";
import { Input } from "antd";
import dynamic from "next/dynamic";
import Link from "next/link";
import { type ReactNode, useMemo, useState } from "react";
import type { ChangeProvider, Provider } from "@/contract/providers";
import { providers } from "@/contract/providers";
import type { Problem } from "@/core/problem/problem";
import { hostIn } from "@/core/provider/address";
import { readingOf } from "@/core/wire/fitting/fit";
import { markedAnswer, markedRequest } from "@/core/wire/marks/marks";
import { answerIn } from "@/core/wire/pasted/answer";
import type { CompiledProfile } from "@/core/wire/profile";
import type { WrittenProfile } from "@/core/wire/profile-schema";
import { Action } from "../shared/Action";
import { server } from "../shared/api";
import { duration, many } from "../shared/format";
import { ProblemNote } from "../shared/ProblemNote";
import { keys } from "../shared/queries";
import { useChange } from "../shared/use-change";
import { Cases, useCases } from "./Cases";
import { exampleCall } from "./example-call";
import { MarkedText } from "./MarkedText";
import { readProfileText } from "./profile-text";
import { Reading } from "./Reading";
import styles from "./TwoTexts.module.css";
import { type ShownAnswer, setUnkept, unkeptOf } from "./unkept";

const ProfileEditor = dynamic(() => import("./ProfileEditor"), { ssr: false });

/** The request that a provider will get and the reading of its answer, side by side, as two real texts. */
export function TwoTexts({
  provider,
  model,
  opensProfile,
  onChange,
  onProblem,
}: {
  provider: Provider;
  model: string;
  /** Whether the profile is open at first. */
  opensProfile: boolean;
  onChange: (change: ChangeProvider) => Promise<boolean>;
  onProblem: (problem: Problem | undefined) => void;
}) {
  const stored = useMemo(() => `${JSON.stringify(provider.profile, undefined, 2)}\n`, [provider.profile]);
  const [draft, setDraft] = useState(() => unkeptOf(provider.id).profile);
  const [showsEditor, setShowsEditor] = useState(opensProfile || draft !== undefined);
  const text = draft ?? stored;
  const { profile, wrong } = useMemo(() => readProfileText(text), [text]);
  const [lastGood, setLastGood] = useState(profile);
  if (profile && profile !== lastGood) setLastGood(profile);
  const edit = (next: string | undefined) => {
    setUnkept(provider.id, { profile: next });
    setDraft(next);
  };
  const save = async () => {
    if (!profile || !(await onChange({ profile: JSON.parse(text) }))) return;
    edit(undefined);
    setShowsEditor(false);
  };
  return (
    <div className={styles.texts}>
      <section aria-label="What it gets" data-part="profile">
        <Heading title="What it gets" note={`profile: ${profile?.source.shape ?? provider.shape}`}>
          {showsEditor ? (
            <>
              <Link href="/docs/wire-profiles" target="_blank">
                the language
              </Link>
              <Action disabled={!profile || draft === undefined} onClick={() => void save()}>
                keep it
              </Action>
              <Action
                onClick={() => {
                  edit(undefined);
                  setShowsEditor(false);
                }}
              >
                {draft === undefined ? "close" : "drop the changes"}
              </Action>
            </>
          ) : (
            <Action onClick={() => setShowsEditor(true)}>edit as JSON</Action>
          )}
        </Heading>
        {showsEditor ? (
          <>
            <ProfileEditor text={text} onChange={edit} />
            <p role="status" className={wrong ? styles.wrong : styles.quiet}>
              {(wrong && `${wrong} (F8 goes there)`) ??
                (draft === undefined ? "As it is kept." : "Right, and not kept yet: what it reads is shown beside it.")}
            </p>
            {lastGood && <Cases provider={provider.id} profile={lastGood} />}
          </>
        ) : (
          lastGood && (
            <MarkedText
              label="The request that it gets"
              segments={markedRequest(
                lastGood,
                exampleCall(lastGood, { ...provider, model }),
                hostIn(provider.address),
              )}
            />
          )
        )}
      </section>
      {lastGood && <Answer provider={provider} model={model} profile={lastGood} onProblem={onProblem} />}
    </div>
  );
}

function Heading({ title, note, children }: { title: string; note: string; children: ReactNode }) {
  return (
    <div className={styles.heading}>
      <h2>{title}</h2>
      <span className={styles.note}>{note}</span>
      <span className={styles.links}>{children}</span>
    </div>
  );
}

function Answer({
  provider,
  model,
  profile,
  onProblem,
}: {
  provider: Provider;
  model: string;
  profile: CompiledProfile;
  onProblem: (problem: Problem | undefined) => void;
}) {
  const last = useQuery({
    queryKey: keys.lastAnswer(provider.id),
    queryFn: () => server.send(providers.lastAnswer, { id: provider.id }),
  });
  const [own, setShown] = useState(() => unkeptOf(provider.id).answer);
  const setOwn = (answer: ShownAnswer | undefined) => {
    setUnkept(provider.id, { answer });
    setShown(answer);
  };
  const [pastes, setPastes] = useState(false);
  const cases = useCases(provider.id);
  const kept = last.data?.last;
  const shown: ShownAnswer | undefined =
    own ??
    (kept
      ? {
          text: kept.text,
          contentType: kept.contentType,
          from: `last live call of ${kept.model} · ${many(kept.arrivals, "part")} in ${duration(kept.ms)}`,
        }
      : undefined);

  const asking = useChange("The call", async () => {
    onProblem(undefined);
    const body = { model, message: "Does the 8:10 run on Sunday?", stream: profile.stream !== undefined };
    const { answer } = await server.send(providers.try, { id: provider.id, body });
    if (answer.problem) onProblem(answer.problem);
    setOwn({
      text: answer.text,
      contentType: answer.contentType,
      from: `asked just now · status ${answer.status ?? "none"} · ${many(answer.arrivals.length, "part")} in ${duration(answer.ms)}`,
    });
  }, [keys.standing(provider.id)]);
  return (
    <section aria-label="What it answers" data-part="call">
      <Heading title="What it answers" note={shown?.from ?? "nothing yet"}>
        <Action disabled={asking.isRunning || model === ""} onClick={() => asking.run()}>
          {asking.isRunning ? "asking" : "ask it now"}
        </Action>
        <Action onClick={() => setPastes(!pastes)}>paste another</Action>
        {shown && (
          <Action
            disabled={!cases.canKeep(caseOf(shown)) || cases.has(shown.text)}
            onClick={() => cases.keep([...cases.all, caseOf(shown)])}
          >
            {cases.has(shown.text) ? "kept as a case" : "keep as a case"}
          </Action>
        )}
      </Heading>
      {asking.problem && <ProblemNote problem={asking.problem} />}
      {pastes && (
        <Input.TextArea
          aria-label="An answer, as it came"
          placeholder="Paste an answer as it came; with its HTTP headers, as curl -i prints them, or without."
          autoSize={{ minRows: 4, maxRows: 12 }}
          className={styles.paste}
          onChange={(event) => setOwn(pasted(event.target.value))}
        />
      )}
      {shown ? (
        <Read shown={shown} profile={profile} />
      ) : (
        <p className={styles.quiet}>
          Ask it something, or paste an answer that you have: its parts are marked here, and it is read below.
        </p>
      )}
    </section>
  );
}

/** An answer as a case has it, with the type that it came under. */
function caseOf({ contentType, text }: ShownAnswer): string {
  return contentType === "" ? text : `HTTP/1.1 200 OK\ncontent-type: ${contentType}\n\n${text}`;
}

function pasted(text: string): ShownAnswer | undefined {
  if (text.trim() === "") return undefined;
  const { contentType, body } = answerIn(text);
  return { text: body, contentType, from: `pasted · ${contentType}` };
}

function Read({ shown, profile }: { shown: ShownAnswer; profile: CompiledProfile }) {
  const segments = useMemo(() => markedAnswer(profile, shown.text), [profile, shown.text]);
  const events = useMemo(
    () =>
      readingOf(profile.source as WrittenProfile, {
        status: 200,
        contentType: shown.contentType,
        headers: {},
        body: shown.text,
      }),
    [profile, shown],
  );
  return (
    <>
      <MarkedText label="The answer, as it came" segments={segments} />
      <Reading events={events} />
    </>
  );
}
