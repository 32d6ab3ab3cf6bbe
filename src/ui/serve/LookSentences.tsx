import { Input } from "antd";
import { type ChangeEvent, useState } from "react";
import type { Serving } from "@/contract/serving";
import { contrastOf, enough, inkOn } from "@/core/look/contrast";
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

type Choices<K extends keyof Look> = { value: Look[K] & string; label: string }[];

/** The look of the page, in sentences whose words are changed where they stand. */
export function LookSentences({ served, dress }: { served: Serving; dress: (look: Partial<Look>) => void }) {
  const { look, style } = served;
  const [opened, setOpened] = useState<"questions" | "shows" | "failures" | "style">();
  const unfolds = (what: NonNullable<typeof opened>, text: string) => (
    <button
      type="button"
      className="link"
      aria-expanded={opened === what}
      onClick={() => setOpened(opened === what ? undefined : what)}
    >
      {text}
    </button>
  );
  function choice<K extends keyof Look>(label: string, name: K, options: Choices<K>) {
    return (
      <ChoiceWord
        label={label}
        value={look[name] as string}
        options={options}
        onChange={(value) => dress({ [name]: value } as Partial<Look>)}
      />
    );
  }
  const words = (
    label: string,
    name: "title" | "subtitle" | "greeting" | "placeholder" | "smallPrint",
    empty: string,
  ) => (
    <KeptWord
      label={label}
      value={look[name]}
      placeholder={empty}
      onKeep={(value) => {
        const kept = lookSchema.shape[name].safeParse(value);
        if (kept.success) dress({ [name]: value });
      }}
    />
  );
  return (
    <div className={styles.look}>
      <div className={styles.sentence}>
        Titled {words("Title", "title", "with the app's name")}, under it {words("Subtitle", "subtitle", "nothing")}.
        Greets with {words("Greeting", "greeting", "nothing")}, shows{" "}
        {choice("What stands beside messages", "avatar", [
          { value: "letter", label: "a letter" },
          { value: "picture", label: "the picture" },
        ])}{" "}
        beside{" "}
        {choice("Beside whose messages", "avatars", [
          { value: "app", label: "the app only" },
          { value: "both", label: "both" },
          { value: "none", label: "nobody" },
        ])}
        , visitors{" "}
        {choice("Where visitors' messages stand", "sides", [
          { value: "right", label: "on the right" },
          { value: "left", label: "in one column" },
        ])}{" "}
        in{" "}
        {choice("How messages stand", "rows", [
          { value: "blocks", label: "blocks" },
          { value: "plain", label: "plain rows" },
        ])}
        , accent <Accent accent={look.accent} dress={dress} />,{" "}
        {choice("Density", "density", [
          { value: "roomy", label: "roomy" },
          { value: "dense", label: "dense" },
        ])}
        ,{" "}
        {choice("Light or dark", "scheme", [
          { value: "visitor", label: "light or dark as the visitor's device" },
          { value: "light", label: "light" },
          { value: "dark", label: "dark" },
        ])}
        . Waits with{" "}
        {choice("Waiting sign", "waiting", [
          { value: "bar", label: "a bar" },
          { value: "words", label: "words" },
          { value: "dots", label: "three marks" },
        ])}
        ; the composer says {words("Placeholder", "placeholder", "nothing")} and is{" "}
        {choice("Composer while a reply is waited for", "composer", [
          { value: "open", label: "open" },
          { value: "held", label: "held" },
        ])}{" "}
        meanwhile. Replies are{" "}
        {choice("How replies are read", "text", [
          { value: "markdown", label: "Markdown" },
          { value: "plain", label: "plain words" },
        ])}
        .
      </div>
      <p className={styles.under}>
        <span>
          contrast {contrastOf(look.accent, inkOn(look.accent)).toFixed(1)} : 1{" "}
          {contrastOf(look.accent, inkOn(look.accent)) < enough && "is too little"}
        </span>
        {unfolds("questions", "first questions, names, small print")}
        {unfolds("shows", "picture, and what is shown")}
        {unfolds("failures", "wording of failures")}
        {unfolds("style", "style sheet")}
      </p>
      {opened === "questions" && (
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
            . Small print {words("Small print", "smallPrint", "none")}. Language{" "}
            <KeptWord
              label="Language of the page"
              value={look.language}
              onKeep={(language) => lookSchema.shape.language.safeParse(language).success && dress({ language })}
            />
            , read{" "}
            {choice("Direction", "direction", [
              { value: "ltr", label: "from left to right" },
              { value: "rtl", label: "from right to left" },
            ])}
            .
          </div>
        </div>
      )}
      {opened === "shows" && <Shows look={look} dress={dress} />}
      {opened === "failures" && (
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
      )}
      {opened === "style" && (
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
          <Lines
            value={look.style}
            isCode
            onKeep={(css) => dress({ style: css.slice(0, 100_000) })}
            label="Style sheet"
          />
        </div>
      )}
    </div>
  );
}

function Accent({ accent, dress }: { accent: string; dress: (look: Partial<Look>) => void }) {
  return (
    <>
      <input
        type="color"
        className={styles.colour}
        aria-label="Accent, chosen"
        value={accent}
        onChange={(event) => dress({ accent: event.target.value })}
      />{" "}
      <KeptWord
        label="Accent"
        value={accent}
        onKeep={(text) => {
          const kept = lookSchema.shape.accent.safeParse(text.trim().toLowerCase());
          if (kept.success) dress({ accent: kept.data });
        }}
      />
    </>
  );
}

const shown: [keyof Look["shows"], string][] = [
  ["thoughts", "thoughts"],
  ["times", "times"],
  ["tokens", "tokens"],
  ["cost", "cost"],
  ["goOn", "go on"],
  ["conversations", "conversations"],
];

function Shows({ look, dress }: { look: Look; dress: (look: Partial<Look>) => void }) {
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
