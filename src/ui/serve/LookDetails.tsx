import { Input } from "antd";
import { type ChangeEvent, useState } from "react";
import type { Serving } from "@/contract/serving";
import { type Look, lookSchema } from "@/core/look/look";
import { wordsForFailure } from "@/core/look/words";
import type { ProblemKind } from "@/core/problem/problem";
import { titleOf } from "@/core/problem/problem";
import { ChoiceWord, KeptWord } from "../shared/words";
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
        <Lines
          label="First questions, one a line"
          value={look.questions.join("\n")}
          onKeep={(text) => {
            const questions = lookSchema.shape.questions.safeParse(
              text
                .split("\n")
                .map((line) => line.trim())
                .filter(Boolean)
                .slice(0, 6),
            );
            if (questions.success) dress({ questions: questions.data });
          }}
        />
      </div>
      <div>
        Names over messages: the app{" "}
        <KeptWord
          label="Name over the app's messages"
          value={look.names.app}
          placeholder="none"
          onKeep={(app) => dress({ names: { ...look.names, app: app.slice(0, 40) } })}
        />
        , the visitor{" "}
        <KeptWord
          label="Name over visitors' messages"
          value={look.names.visitor}
          placeholder="none"
          onKeep={(visitor) => dress({ names: { ...look.names, visitor: visitor.slice(0, 40) } })}
        />
        . Small print{" "}
        <KeptWord
          label="Small print"
          value={look.smallPrint}
          placeholder="none"
          onKeep={(smallPrint) => dress({ smallPrint: smallPrint.slice(0, 400) })}
        />
        . Language{" "}
        <KeptWord
          label="Language of the page"
          value={look.language}
          onKeep={(language) => lookSchema.shape.language.safeParse(language).success && dress({ language })}
        />
        , read{" "}
        <ChoiceWord
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

/** What visitors are told of each failure. */
export function Failures({ look, dress }: Props) {
  return (
    <div className={styles.unfolded}>
      <dl className={styles.failures}>
        {failures.map((kind) => (
          <div key={kind}>
            <dt>{titleOf(kind)}</dt>
            <dd>
              <KeptWord
                label={`What visitors are told: ${titleOf(kind)}`}
                value={look.failures[kind] ?? ""}
                placeholder={wordsForFailure({ failures: {} }, kind)}
                onKeep={(text) => {
                  const { [kind]: _before, ...others } = look.failures;
                  dress({ failures: text.trim() ? { ...others, [kind]: text.slice(0, 300) } : others });
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
      <Lines value={look.style} isCode onKeep={(css) => dress({ style: css.slice(0, 100_000) })} label="Style sheet" />
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
  ["goOn", "go on"],
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
        {look.picture && (
          <button type="button" className="link" onClick={() => dress({ picture: null })}>
            take it away
          </button>
        )}
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

/** Several lines of text, kept when the field is left. */
function Lines({
  value,
  onKeep,
  isCode = false,
  label,
}: {
  value: string;
  onKeep: (text: string) => void;
  isCode?: boolean;
  label: string;
}) {
  const [text, setText] = useState(value);
  return (
    <Input.TextArea
      className={isCode ? styles.code : undefined}
      aria-label={label}
      autoSize={{ minRows: 3, maxRows: 12 }}
      value={text}
      onChange={(event) => setText(event.target.value)}
      onBlur={() => text !== value && onKeep(text)}
    />
  );
}
