import { lazy, memo, Suspense } from "react";
import { wordsForFailure } from "@/core/look/words";
import type { Call, Said, Talk } from "@/module/talk";
import { count, price } from "../shared/format";
import { Avatar } from "./Avatar";
import type { Dress } from "./dress";

/** Fetched with the first reply, so that the page itself is there sooner; until then the words stand as they came. */
const ReplyText = lazy(() => import("./ReplyText"));
const Pictures = lazy(() => import("./Pictures"));

/** What is said where a reply ended before its end. */
const endings: Partial<Record<Said["state"], string>> = {
  cut: "The answer was cut at its longest.",
  stopped: "Stopped.",
  refused: "The model would not answer this.",
  interrupted: "The answer was interrupted.",
};

interface Props {
  said: Said;
  look: Dress;
  talk: Talk | null;
  title: string;
  isLast: boolean;
  /** Whether something can be asked now. */
  isReady: boolean;
  retry: () => void;
  again: () => void;
  goOn: () => void;
  show: (message: string) => void;
  rate: (reply: string, rating: Said["rating"]) => void;
  allow: (call: string, isAllowed: boolean) => void;
}

/** One message, and what can be done about it. */
export const Row = memo(
  function Row({ said, look, talk, title, isLast, isReady, retry, again, goOn, show, rate, allow }: Props) {
    const { role, text, state, thought, failure } = said;
    const name = role === "app" ? look.names.app || title : look.names.visitor || "You";
    const ownName = role === "app" ? look.names.app : look.names.visitor;
    const shownName = look.rows === "plain" ? name : ownName;
    const hasAvatar = look.avatars === "both" || (look.avatars === "app" && role === "app");
    const isFailed = failure !== null || state === "failed";
    const ending = isFailed ? undefined : endings[state];
    const canAnswerAgain = look.shows.again && role === "app" && !isFailed && text !== "";
    const canGoOn = look.shows.goOn && (state === "cut" || state === "stopped" || state === "interrupted");
    return (
      <article className="talk-row" data-role={role} data-state={state} aria-label={name}>
        {hasAvatar && <Avatar look={look} name={name} />}
        <div className="talk-body">
          {shownName && <p className="talk-name">{shownName}</p>}
          {look.shows.thoughts && thought && (
            <details className="talk-thought">
              <summary>Thoughts</summary>
              <p dir="auto">{thought}</p>
            </details>
          )}
          {state === "waiting" && text === "" && <Waiting look={look} />}
          {said.pictures.length > 0 && (
            <Suspense fallback={null}>
              <Pictures pictures={said.pictures} talk={talk} />
            </Suspense>
          )}
          {text !== "" &&
            (role === "app" ? (
              <Suspense fallback={<p className="talk-text talk-written">{text}</p>}>
                <ReplyText
                  text={text}
                  data={said.data}
                  cites={said.cites}
                  isArriving={state === "arriving"}
                  isPlain={look.text === "plain"}
                />
              </Suspense>
            ) : (
              <p className="talk-text talk-written" dir="auto">
                {text}
              </p>
            ))}
          {said.calls.map((call) => (
            <Asked key={`${call.round} ${call.call}`} call={call} allow={allow} />
          ))}
          {ending && <p className="talk-ending">{ending}</p>}
          {isFailed && (
            <p className="talk-failure" role={isLast ? "alert" : undefined}>
              {wordsForFailure(look, failure?.kind ?? "internal")}
            </p>
          )}
          {said.siblings.length > 1 && (
            <p className="talk-takes">
              {role === "app" ? "Answers" : "Said here"}
              {said.siblings.map((id, at) => (
                <button
                  key={id}
                  type="button"
                  className="talk-word"
                  aria-current={id === said.id || undefined}
                  aria-label={`${role === "app" ? "Answer" : "Message"} ${at + 1} of ${said.siblings.length}`}
                  disabled={!isReady}
                  onClick={() => id !== said.id && show(id)}
                >
                  {at + 1}
                </button>
              ))}
            </p>
          )}
          <Facts said={said} look={look} />
          {said.isByHand && <p className="talk-facts">Written by a person.</p>}
          {look.shows.rating && role === "app" && !isFailed && text !== "" && state !== "arriving" && (
            <p className="talk-actions">
              {(["good", "bad"] as const).map((rating) => (
                <button
                  key={rating}
                  type="button"
                  className="talk-word"
                  aria-pressed={said.rating === rating}
                  onClick={() => rate(said.id, said.rating === rating ? null : rating)}
                >
                  {rating === "good" ? "Good" : "Not good"}
                </button>
              ))}
            </p>
          )}
          {isLast && isReady && (isFailed || canGoOn || canAnswerAgain) && (
            <p className="talk-actions">
              {isFailed && (
                <button type="button" className="talk-word" onClick={retry}>
                  Try again
                </button>
              )}
              {canAnswerAgain && (
                <button type="button" className="talk-word" onClick={again}>
                  Another answer
                </button>
              )}
              {canGoOn && (
                <button type="button" className="talk-word" onClick={goOn}>
                  Go on
                </button>
              )}
            </p>
          )}
        </div>
      </article>
    );
  },
  (before, now) =>
    before.said === now.said &&
    before.look === now.look &&
    before.title === now.title &&
    before.isLast === now.isLast &&
    before.isReady === now.isReady,
);

/** What is said of a call that a visitor was asked about. */
const outcomes: Record<string, string> = {
  waiting: "is under way",
  answered: "was done",
  declined: "was not done, as you said",
  unknown: "may or may not have been done",
};

/** Something that the app wants to do, and may only where the visitor allows it. */
function Asked({
  call: { call, name, arguments: given, outcome, waitsFor },
  allow,
}: {
  call: Call;
  allow: Props["allow"];
}) {
  const what = name.replace(/[_-]+/g, " ");
  const details = typeof given === "object" && given !== null ? Object.entries(given) : [];
  const words = details.map(
    ([key, value]) => `${key.replace(/[_-]+/g, " ")}: ${typeof value === "string" ? value : JSON.stringify(value)}`,
  );
  const said = words.length > 0 ? `${what} (${words.join(", ")})` : what;
  if (waitsFor !== "leave")
    return (
      <p className="talk-asked">
        {said}: {outcomes[outcome] ?? "was not done"}.
      </p>
    );
  return (
    <div className="talk-asked" role="alert">
      <p>May this be done: {said}?</p>
      <p className="talk-actions">
        <button type="button" className="talk-word" onClick={() => allow(call, true)}>
          Yes, do it
        </button>
        <button type="button" className="talk-word" onClick={() => allow(call, false)}>
          No
        </button>
      </p>
    </div>
  );
}

function Waiting({ look }: { look: Dress }) {
  return (
    <p className="talk-waiting" data-sign={look.waiting}>
      {look.waiting === "words" ? look.waitingWords : <span className="talk-spoken">{look.waitingWords}</span>}
      {look.waiting === "dots" && (
        <>
          <i />
          <i />
          <i />
        </>
      )}
    </p>
  );
}

/** When it was said, and what it took, as far as the developer shows it. */
function Facts({
  said: { at, tokens, price: cost, currency },
  look: { shows, language },
}: {
  said: Said;
  look: Dress;
}) {
  const facts = [
    shows.times && new Date(at).toLocaleTimeString(language, { hour: "2-digit", minute: "2-digit" }),
    shows.tokens && tokens !== null && `${count(tokens)} tokens`,
    shows.cost && cost !== null && currency && price(cost, currency),
  ].filter(Boolean);
  // the server and the browser may be in different time zones
  return facts.length === 0 ? null : (
    <p className="talk-facts" suppressHydrationWarning>
      {facts.join(" · ")}
    </p>
  );
}
