import { useMemo } from "react";
import { type Finding, type Fitting, meaningId, meanings, untoldChoices, untoldId } from "@/core/wire/fitting/fit";
import { pastedAnswer, pastedRequest } from "@/core/wire/marks/pasted";
import { compileProfile, ProfileError } from "@/core/wire/profile";
import { Action } from "../../shared/Action";
import { Reading } from "../Reading";
import { ChosenText } from "./ChosenText";
import styles from "./FitSheet.module.css";

/** What was pasted, with what each part was taken for and how sure that is; what it reads as; what is left. */
export function Proposal({
  fitting,
  request,
  answer,
  answers,
  onAnswer,
}: {
  fitting: Fitting;
  request: string;
  answer: string;
  answers: Record<string, string>;
  onAnswer: (id: string, answer: string) => void;
}) {
  const texts = useMemo(() => {
    try {
      const profile = compileProfile(fitting.profile);
      return { request: pastedRequest(request, fitting), answer: pastedAnswer(answer, profile, fitting) };
    } catch (error) {
      if (error instanceof ProfileError) return undefined;
      throw error;
    }
  }, [fitting, request, answer]);
  const sides: [Finding["in"], string, string][] = [
    ["request", "Beside its marks", "The request, as it was read"],
    ["answer", "Beside its marks", "The answer, as it is read"],
  ];
  return (
    <>
      <p className={styles.legend}>
        <span data-standing="sure">proven</span> <span data-standing="likely">likely</span>{" "}
        <span data-standing="asked">asked</span> <span data-standing="nothing">taken for nothing</span> Choose a part to
        say what it is.
      </p>
      <div className={styles.pastes}>
        {sides.map(([side, title, label]) => (
          <div key={side}>
            {texts && (
              <ChosenText
                label={label}
                segments={texts[side]}
                meanings={meanings[side]}
                said={(where) => answers[meaningId(side, where)]}
                onSay={(where, meaning) => onAnswer(meaningId(side, where), meaning)}
              />
            )}
            {side === "answer" && <Reading events={fitting.reading} />}
            <b>{title}</b>
            <ul className={styles.findings}>
              {fitting.findings
                // the others are marked in the text
                .filter((each) => each.in === side && !isMarked(each))
                .map(({ what, where, certainty }) => (
                  <li key={`${what} ${where}`}>
                    {what}: <code>{where}</code>
                    {certainty === "likely" && <small data-standing="caution"> likely, not proven</small>}
                  </li>
                ))}
            </ul>
            {side === "request" && <UntoldParts fitting={fitting} answers={answers} onAnswer={onAnswer} />}
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

/** Whether what was found is marked in the text: at a path, in a header, in the address. */
function isMarked({ where, what }: Finding): boolean {
  if (what === "framing" || what === "end") return false;
  return !where.includes(" ") || where === "the address" || where === "the path";
}

/** What of the request was taken for nothing: it stays as it is, or is left out. */
function UntoldParts({
  fitting,
  answers,
  onAnswer,
}: {
  fitting: Fitting;
  answers: Record<string, string>;
  onAnswer: (id: string, answer: string) => void;
}) {
  if (fitting.untold.length === 0) return null;
  return (
    <>
      <b>Taken for nothing, and sent as it stands</b>
      <ul className={styles.findings} aria-label="Taken for nothing">
        {fitting.untold.map(({ where, found }) => {
          const isOut = answers[untoldId(where)] === untoldChoices[1];
          return (
            <li key={where}>
              <code>{where}</code> <span className={isOut ? styles.out : styles.quiet}>{found}</span>{" "}
              <Action
                aria-label={isOut ? `send ${where} after all` : `leave ${where} out`}
                onClick={() => onAnswer(untoldId(where), isOut ? "" : untoldChoices[1])}
              >
                {isOut ? "left out: send it after all" : "leave it out"}
              </Action>
            </li>
          );
        })}
      </ul>
    </>
  );
}
