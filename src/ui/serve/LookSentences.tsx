import { useState } from "react";
import type { Serving } from "@/contract/serving";
import { contrastOf, enough, inkOn } from "@/core/look/contrast";
import { type Look, lookSchema } from "@/core/look/look";
import { Action } from "../shared/Action";
import { ChoiceValue } from "../shared/inline/ChoiceValue";
import { TextValue } from "../shared/inline/TextValue";
import { readBy } from "../shared/inline/taken";
import { Failures, OwnStyle, Questions, Shows } from "./LookDetails";
import styles from "./ServeView.module.css";

type Choices<K extends keyof Look> = { value: Look[K] & string; label: string }[];

/** The look of the page, in sentences whose words are changed where they stand. */
export function LookSentences({ served, dress }: { served: Serving; dress: (look: Partial<Look>) => void }) {
  const { look, style } = served;
  const [opened, setOpened] = useState<"questions" | "shows" | "failures" | "style">();
  const unfolds = (what: NonNullable<typeof opened>, text: string) => (
    <Action aria-expanded={opened === what} onClick={() => setOpened(opened === what ? undefined : what)}>
      {text}
    </Action>
  );
  function choice<K extends keyof Look>(label: string, name: K, options: Choices<K>) {
    return (
      <ChoiceValue
        label={label}
        value={look[name] as string}
        options={options}
        onChange={(value) => dress({ [name]: value } as Partial<Look>)}
      />
    );
  }
  const words = (label: string, name: "title" | "subtitle" | "greeting" | "placeholder", empty: string) => (
    <TextValue
      label={label}
      value={look[name]}
      placeholder={empty}
      read={readBy(lookSchema.shape[name])}
      onChange={(value) => dress({ [name]: value })}
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
      {opened === "questions" && <Questions look={look} dress={dress} />}
      {opened === "shows" && <Shows look={look} dress={dress} />}
      {opened === "failures" && <Failures look={look} dress={dress} />}
      {opened === "style" && <OwnStyle look={look} style={style} dress={dress} />}
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
      <TextValue
        label="Accent"
        value={accent}
        read={(text) => readBy(lookSchema.shape.accent)(text.trim().toLowerCase())}
        onChange={(accent) => dress({ accent })}
      />
    </>
  );
}
