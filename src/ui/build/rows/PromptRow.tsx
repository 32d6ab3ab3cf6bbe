import { Input } from "antd";
import { diffWords } from "diff";
import { useState } from "react";
import type { App } from "@/contract/apps";
import { changesBetween } from "@/core/revision/changes";
import { type Content, sameContent } from "@/core/revision/revision";
import { count, many } from "../../shared/format";
import { wordsOfMemory } from "../../shared/memory-words";
import type { EditedDraft } from "../use-draft";
import prompt from "./PromptRow.module.css";
import { type Bracket, Row } from "./Row";
import styles from "./Row.module.css";

/** Lines that a prompt shows while it is not edited. */
const shownLines = 3;

/** Row 0: the system prompt, edited in place; beside it how the draft stands to the revisions. */
export function PromptRow({
  app,
  draft,
  tokens,
  isEdited,
  onEdit,
  putLive,
  nameOf,
  ...bracket
}: Bracket & {
  app: App;
  draft: EditedDraft;
  putLive: () => void;
  /** The name of a provider by its id. */
  nameOf: (provider: string) => string;
  tokens: number;
  isEdited: boolean;
  onEdit: (isEdited: boolean) => void;
}) {
  const { content, edit } = draft;
  const [showsChange, setShowsChange] = useState(false);
  const [isWhole, setWhole] = useState(false);
  const isDraft = !sameContent(content, app.latest.content) && app.draftRevision === null;
  const lines = content.prompt.split("\n");
  return (
    <Row
      tone={isDraft ? "draft" : "prompt"}
      turn="0"
      tokens={count(tokens)}
      {...bracket}
      label="System prompt"
      side={
        <PromptSide
          {...{ app, draft, isDraft, showsChange, putLive }}
          onShowChange={() => setShowsChange(!showsChange)}
        />
      }
    >
      {isEdited ? (
        <Input.TextArea
          aria-label="System prompt"
          autoFocus
          autoSize={{ minRows: 3, maxRows: 18 }}
          value={content.prompt}
          onChange={(event) => edit({ prompt: event.target.value })}
          onBlur={() => onEdit(false)}
          onKeyDown={(event) => {
            if (event.key !== "Escape") return;
            event.stopPropagation();
            onEdit(false);
          }}
        />
      ) : (
        <>
          <button
            type="button"
            className={prompt.text}
            onClick={() => onEdit(true)}
            aria-label="Edit the system prompt"
          >
            <span className={styles.who}>System prompt</span>
            <span className={styles.plain}>
              {isWhole
                ? content.prompt
                : lines.slice(0, shownLines).join("\n") || "empty: nothing is sent before the first message"}
            </span>
          </button>
          {lines.length > shownLines && (
            <button type="button" className="link" onClick={() => setWhole(!isWhole)}>
              {isWhole ? "fewer lines" : `all ${lines.length} lines`}
            </button>
          )}
        </>
      )}
      {showsChange && isDraft && <Change before={app.latest.content} after={content} nameOf={nameOf} />}
    </Row>
  );
}

function PromptSide({
  app,
  draft,
  isDraft,
  showsChange,
  onShowChange,
  putLive,
}: {
  putLive: () => void;
  app: App;
  draft: EditedDraft;
  isDraft: boolean;
  showsChange: boolean;
  onShowChange: () => void;
}) {
  const isLive = !isDraft && app.draftRevision === app.liveRevision;
  return (
    <>
      <div>
        {isDraft
          ? `draft, ${changeIn(app.latest.content, draft.content)}`
          : `revision ${app.draftRevision ?? app.latest.number}${isLive ? " · live" : ""}`}
      </div>
      <div className={styles.links}>
        {!isLive && (
          <button type="button" className="link" onClick={putLive}>
            put live
          </button>
        )}
        {isDraft && (
          <button type="button" className="link" onClick={onShowChange} aria-expanded={showsChange}>
            {showsChange ? "hide change" : "see change"}
          </button>
        )}
      </div>
    </>
  );
}

/** What changed in a word or two. */
function changeIn(before: Content, after: Content): string {
  const words = diffWords(before.prompt, after.prompt).reduce(
    (sum, part) => sum + (part.added || part.removed ? part.value.trim().split(/\s+/).filter(Boolean).length : 0),
    0,
  );
  const changed = [
    words > 0 && `changed ${many(words, "word")}`,
    !sameContent({ ...before, prompt: "" }, { ...after, prompt: "" }) && "settings changed",
  ];
  return changed.filter(Boolean).join(", ") || "not changed";
}

function Change({ before, after, nameOf }: { before: Content; after: Content; nameOf: (provider: string) => string }) {
  const parts = diffWords(before.prompt, after.prompt);
  const settings = changesBetween(before, after, { provider: nameOf, memory: wordsOfMemory });
  return (
    <div className={prompt.change}>
      <div className={styles.plain}>
        {parts.map((part, at) => {
          const Tag = part.added ? "ins" : part.removed ? "del" : "span";
          return <Tag key={at}>{part.value}</Tag>;
        })}
      </div>
      {settings.map(({ what, was, is }) => (
        <div key={what}>
          {what}: {was} → {is}
        </div>
      ))}
    </div>
  );
}
