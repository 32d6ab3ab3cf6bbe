import dynamic from "next/dynamic";
import { useState } from "react";
import type { Content } from "@/core/revision/content";
import { schemaFault } from "@/core/schema/shape";
import { longestSchema, type ReplySchema } from "@/core/typed/schema";
import { typeText } from "@/core/typed/type-text";
import type { SchemaNode } from "@/core/wire/completions";
import { parseJson } from "@/core/wire/json";
import { CopyAction } from "../../shared/CopyAction";
import { ChoiceValue } from "../../shared/inline/ChoiceValue";
import { Unfolds } from "../../shared/inline/Unfolds";
import sentences from "../../shared/sentences/sentences.module.css";
import styles from "./ToolsSentence.module.css";

const JsonEditor = dynamic(() => import("../../shared/editor/JsonEditor"), { ssr: false });

/** What a reply is at first that is to be data. */
const begun: ReplySchema = {
  type: "object",
  properties: { answer: { type: "string" } },
  required: ["answer"],
  additionalProperties: false,
};

/** Whether the app answers in words, or as data that fits a schema. */
export default function SchemaSentence({
  content: { schema },
  edit,
}: {
  content: Content;
  edit: (change: Partial<Content>) => void;
}) {
  const [text, setText] = useState<string>();
  const read = text === undefined ? undefined : readSchema(text);
  const type = (next: string) => {
    setText(next);
    const found = readSchema(next);
    if ("schema" in found) edit({ schema: found.schema });
  };
  return (
    <section aria-label="Form of the reply">
      <div className={sentences.sentence}>
        Answers{" "}
        <ChoiceValue
          label="How it answers"
          value={schema ? "data" : "words"}
          options={[
            { value: "words", label: "in words" },
            { value: "data", label: "as data" },
          ]}
          onChange={(how) => {
            edit({ schema: how === "data" ? begun : undefined });
            setText(how === "data" ? write(begun) : undefined);
          }}
        />
        {schema && (
          <>
            {" "}
            that fits{" "}
            <Unfolds
              isOpen={text !== undefined}
              onClick={() => setText(text === undefined ? write(schema) : undefined)}
            >
              {namesIn(schema)}
            </Unfolds>
            ; what does not is asked for once more
          </>
        )}
        .
      </div>
      {schema && text !== undefined && (
        <>
          <div className={styles.editor}>
            <JsonEditor label="Schema of the reply" text={text} onChange={type} schema={anySchema} check={check} />
          </div>
          {read && "wrong" in read && (
            <div className={styles.wrong} role="status">
              {read.wrong} Until that is put right, the schema stays as it was.
            </div>
          )}
          <details className={styles.type}>
            <summary>its type, in TypeScript</summary>
            <pre>{typeText(schema)}</pre>
            <CopyAction text={() => typeText(schema)}>copy the type</CopyAction>
          </details>
        </>
      )}
    </section>
  );
}

/** What may stand in a schema is not told word by word. */
const anySchema: SchemaNode = {};

/** What a schema is called in a sentence: by the members that it has. */
function namesIn({ title, properties }: ReplySchema): string {
  if (typeof title === "string" && title.trim() !== "") return title;
  const names = Object.keys((properties ?? {}) as object);
  if (names.length === 0) return "this schema";
  return names.length <= 4 ? names.join(", ") : `${names.slice(0, 3).join(", ")} and ${names.length - 3} more`;
}

function write(schema: ReplySchema): string {
  return JSON.stringify(schema, null, 2);
}

function readSchema(text: string): { schema: ReplySchema } | { wrong: string } {
  const value = parseJson(text);
  if (value === undefined) return { wrong: "This is not JSON yet." };
  if (typeof value !== "object" || value === null || Array.isArray(value)) return { wrong: "A schema is an object." };
  if (JSON.stringify(value).length > longestSchema) return { wrong: `It has more than ${longestSchema} characters.` };
  const wrong = schemaFault(value as ReplySchema);
  return wrong === undefined ? { schema: value as ReplySchema } : { wrong };
}

function check(text: string) {
  const read = readSchema(text);
  return "wrong" in read ? { wrong: read.wrong, steps: [] } : undefined;
}
