import { type ChangeEvent, useState } from "react";
import type { Serving } from "@/contract/serving";
import { type Look, lookSchema } from "@/core/look/look";
import { wordsForFailure } from "@/core/look/words";
import type { ProblemKind } from "@/core/problem/problem";
import { titleOf } from "@/core/problem/problem";
import { Action } from "../shared/Action";
import { ChoiceValue } from "../shared/inline/ChoiceValue";
import { LinesValue } from "../shared/inline/LinesValue";
import { TextValue } from "../shared/inline/TextValue";
import { readBy } from "../shared/inline/taken";
import styles from "./ServeView.module.css";

/** Failures that a visitor may meet. */
const failures: ProblemKind[] = [
  "unreachable",
  "timed-out",
  "overloaded",
  "rate-limited",
  "broken-off",
  "empty",
  "too-long",
  "over-limit",
  "interrupted",
  "forbidden",
  "internal",
];
const largestPicture = 150_000;

interface Props {
  look: Look;
  dress: (look: Partial<Look>) => void;
}

/** First questions, names, small print, language and direction. */
export function Questions({ look, dress }: Props) {
  return (
    <div className={styles.unfolded}>
      <div>
        First questions, one a line
        <LinesValue
          label="First questions, one a line"
          value={look.questions.join("\n")}
          onChange={(text) => dress({ questions: linesIn(text) })}
        />
      </div>
      <div>
        Names over messages: the app{" "}
        <TextValue
          label="Name over the app's messages"
          maxLength={40}
          value={look.names.app}
          placeholder="none"
          onChange={(app) => dress({ names: { ...look.names, app } })}
        />
        , the visitor{" "}
        <TextValue
          label="Name over visitors' messages"
          maxLength={40}
          value={look.names.visitor}
          placeholder="none"
          onChange={(visitor) => dress({ names: { ...look.names, visitor } })}
        />
        . Small print{" "}
        <TextValue
          label="Small print"
          maxLength={400}
          value={look.smallPrint}
          placeholder="none"
          onChange={(smallPrint) => dress({ smallPrint })}
        />
        . Language{" "}
        <TextValue
          label="Language of the page"
          value={look.language}
          read={readBy(lookSchema.shape.language)}
          onChange={(language) => dress({ language })}
        />
        , read{" "}
        <ChoiceValue
          label="Direction"
          value={look.direction}
          options={[
            { value: "ltr", label: "from left to right" },
            { value: "rtl", label: "from right to left" },
          ]}
          onChange={(value) => dress({ direction: value as Look["direction"] })}
        />
        .
      </div>
    </div>
  );
}

function linesIn(text: string): string[] {
  return text
    .split("\n")
    .map((line) => line.trim().slice(0, 200))
    .filter(Boolean)
    .slice(0, 6);
}

/** What visitors are told of each failure. */
export function Failures({ look, dress }: Props) {
  return (
    <div className={styles.unfolded}>
      <dl className={styles.failures}>
        {failures.map((kind) => (
          <div key={kind}>
            <dt>{titleOf(kind)}</dt>
            <dd>
              <TextValue
                label={`What visitors are told: ${titleOf(kind)}`}
                maxLength={300}
                value={look.failures[kind] ?? ""}
                placeholder={wordsForFailure({ failures: {} }, kind)}
                onChange={(text) => {
                  const { [kind]: _before, ...others } = look.failures;
                  dress({ failures: text.trim() ? { ...others, [kind]: text } : others });
                }}
              />
            </dd>
          </div>
        ))}
      </dl>
    </div>
  );
}

/** The developer's own style sheet. */
export function OwnStyle({ look, style, dress }: Props & Pick<Serving, "style">) {
  return (
    <div className={styles.unfolded}>
      <p>
        {style.isFromFile ? (
          <>
            The file <code>{style.file}</code> is watched, and goes before what stands here.
          </>
        ) : (
          <>
            It goes to this page alone. A file <code>{style.file}</code> goes before it, and is watched.
          </>
        )}{" "}
        The names of all classes stand in docs/look.md.
      </p>
      <LinesValue label="Style sheet" value={look.style} isCode onChange={(style) => dress({ style })} />
    </div>
  );
}

const shown: [keyof Look["shows"], string][] = [
  ["thoughts", "thoughts"],
  ["times", "times"],
  ["tokens", "tokens"],
  ["cost", "cost"],
  ["again", "another answer"],
  ["rating", "good or bad"],
  ["goOn", "continue"],
  ["conversations", "conversations"],
];

/** The picture, and what the page shows beside words. */
export function Shows({ look, dress }: Props) {
  const [wrong, setWrong] = useState<string>();
  const choose = (event: ChangeEvent<HTMLInputElement>) => {
    const [file] = event.target.files ?? [];
    if (!file) return;
    if (file.size > largestPicture) return setWrong(`${file.name} has more than ${largestPicture / 1000} KB.`);
    const reader = new FileReader();
    reader.onload = () => {
      const picture = lookSchema.shape.picture.safeParse(reader.result);
      setWrong(picture.success ? undefined : `${file.name} is no PNG, JPEG, WebP or GIF.`);
      if (picture.success) dress({ picture: picture.data });
    };
    reader.readAsDataURL(file);
  };
  return (
    <div className={styles.unfolded}>
      <div>
        Picture:{" "}
        <input type="file" accept="image/png,image/jpeg,image/webp,image/gif" aria-label="Picture" onChange={choose} />
        {look.picture && <Action onClick={() => dress({ picture: null })}>delete it</Action>}
        {wrong && <small className={styles.wrong}>{wrong}</small>}
      </div>
      <fieldset className={styles.checks}>
        <legend>The page shows</legend>
        {shown.map(([name, words]) => (
          <label key={name}>
            <input
              type="checkbox"
              checked={look.shows[name]}
              onChange={() => dress({ shows: { ...look.shows, [name]: !look.shows[name] } })}
            />{" "}
            {words}
          </label>
        ))}
      </fieldset>
    </div>
  );
}
