import { useQuery } from "@tanstack/react-query";
import { Input } from "antd";
import type { TextAreaRef } from "antd/es/input/TextArea";
import Link from "next/link";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { flushSync } from "react-dom";
import type { App } from "@/contract/apps";
import { checks } from "@/contract/checks";
import { type Differences, wordsChanged } from "@/core/comparing/parts";
import { type Content, sameContent } from "@/core/revision/content";
import { flawsIn } from "@/core/revision/flaws";
import { Action } from "../../shared/Action";
import { server } from "../../shared/api";
import { ContentChange } from "../../shared/ContentChange";
import { useDifferences } from "../../shared/differences/use-compared";
import { count, many, moment } from "../../shared/format";
import { useLayer } from "../../shared/keys/use-layer";
import { keys } from "../../shared/queries";
import { type Bracket, SheetRow, Who } from "../../shared/sheet/SheetRow";
import styles from "../../shared/sheet/sheet.module.css";
import type { EditedDraft } from "../stations/station";
import { PromptFlaws } from "./PromptFlaws";
import prompt from "./PromptRow.module.css";
import { PromptText } from "./PromptText";

/** The editor, once it was fetched. */
let PromptEditor: typeof import("../../shared/editor/PromptEditor").default | undefined;

async function fetchEditor(): Promise<void> {
  PromptEditor = (await import("../../shared/editor/PromptEditor")).default;
}

/** Fetches the editor when somebody is about to edit: it is there with the click. What fails is tried again then. */
function expectEditor(): void {
  fetchEditor().catch((error) => console.warn(`The editor was not fetched: ${error}`));
}

/** Lines that a prompt shows while it is not edited. */
const shownLines = 3;

/** Row 0: the system prompt, edited in place; beside it how the draft stands to the revisions. */
export function PromptRow({
  app,
  draft,
  tokens,
  window,
  isEdited,
  onEdit,
  putLive,
  nameOf,
  onShowRevisions,
  ...bracket
}: Bracket & {
  app: App;
  draft: EditedDraft;
  putLive: () => void;
  onShowRevisions: () => void;
  /** The name of a provider by its id. */
  nameOf: (provider: string) => string;
  tokens: number;
  /** Tokens that the context window of its model has. */
  window: number;
  isEdited: boolean;
  onEdit: (isEdited: boolean) => void;
}) {
  const { content, edit } = draft;
  const [showsChange, setShowsChange] = useState(false);
  const [isWhole, setWhole] = useState(false);
  // what is not stored yet is no revision, whatever the stored draft is
  const isStored = sameContent(content, app.draft);
  const isDraft = !sameContent(content, app.latest.content) && (app.draftRevision === null || !isStored);
  const lines = content.prompt.split("\n");
  const flaws = useMemo(() => flawsIn(content, window, tokens), [content, window, tokens]);
  return (
    <SheetRow
      tone={isDraft ? "draft" : "prompt"}
      turn="0"
      tokens={count(tokens)}
      bracket={bracket}
      label="System prompt"
      side={
        <PromptSide
          {...{ app, draft, isDraft, showsChange, putLive, onShowRevisions }}
          onShowChange={() => setShowsChange(!showsChange)}
        />
      }
    >
      {isEdited ? (
        <EditedPrompt content={content} edit={edit} onLeave={() => onEdit(false)} />
      ) : (
        <>
          <button
            type="button"
            className={prompt.text}
            onClick={() => onEdit(true)}
            onPointerEnter={expectEditor}
            onFocus={expectEditor}
            aria-label="Edit the system prompt"
            data-focus="the prompt"
          >
            <Who>System prompt</Who>
            <span className={styles.plain}>
              {content.prompt.trim() === "" ? (
                "empty: nothing is sent before the first message"
              ) : (
                <PromptText content={content} most={isWhole ? Number.POSITIVE_INFINITY : shownLines} />
              )}
            </span>
          </button>
          {lines.length > shownLines && (
            <Action onClick={() => setWhole(!isWhole)}>{isWhole ? "fewer lines" : `all ${lines.length} lines`}</Action>
          )}
        </>
      )}
      <PromptFlaws flaws={flaws} />
      {showsChange && isDraft && <ContentChange before={app.latest.content} after={content} nameOf={nameOf} />}
    </SheetRow>
  );
}

/** The prompt as it is written, until it is left or Escape closes it; in a plain field until the editor is there. */
function EditedPrompt({ content, edit, onLeave }: EditedDraft & { onLeave: () => void }) {
  const root = useRef<HTMLDivElement>(null);
  useLayer(root, onLeave);
  const field = useRef<TextAreaRef>(null);
  const isComposing = useRef(false);
  const [shown, setShown] = useState(() => PromptEditor && { Editor: PromptEditor, selection: undefined as Selection });
  /** Shows the editor at once, with what is selected: what is typed next means the same in either. */
  const show = useCallback(() => {
    const Editor = PromptEditor;
    if (!Editor || !field.current || isComposing.current) return;
    const selection = selectionIn(field.current);
    flushSync(() => setShown({ Editor, selection }));
  }, []);
  useEffect(() => {
    fetchEditor().then(show, (error) => console.warn(`The prompt is written in a plain field: ${error}`));
  }, [show]);
  const onChange = (prompt: string) => edit({ prompt });
  return (
    <div ref={root} data-focus="the prompt">
      {shown ? (
        <shown.Editor
          text={content.prompt}
          selection={shown.selection}
          names={[...Object.keys(content.variables), ...Object.keys(content.samples ?? {})]}
          onChange={onChange}
          onLeave={onLeave}
        />
      ) : (
        <Input.TextArea
          ref={field}
          aria-label="System prompt"
          autoFocus
          autoSize={{ minRows: 3, maxRows: 18 }}
          value={content.prompt}
          onChange={(event) => onChange(event.target.value)}
          onFocus={({ target }) => target.setSelectionRange(target.value.length, target.value.length)}
          onCompositionStart={() => {
            isComposing.current = true;
          }}
          onCompositionEnd={() => {
            isComposing.current = false;
            queueMicrotask(show);
          }}
        />
      )}
    </div>
  );
}

type Selection = { from: number; to: number } | undefined;

/** What is selected in the plain field. */
function selectionIn({ resizableTextArea }: TextAreaRef): Selection {
  const area = resizableTextArea?.textArea;
  return area && { from: area.selectionStart, to: area.selectionEnd };
}

function PromptSide({
  app,
  draft,
  isDraft,
  showsChange,
  onShowChange,
  putLive,
  onShowRevisions,
}: {
  putLive: () => void;
  onShowRevisions: () => void;
  app: App;
  draft: EditedDraft;
  isDraft: boolean;
  showsChange: boolean;
  onShowChange: () => void;
}) {
  const { content: latest } = app.latest;
  const differences = useDifferences(latest.prompt, draft.content.prompt);
  const isLive = !isDraft && app.draftRevision === app.liveRevision;
  const checked = useChecked(app);
  return (
    <>
      <div>
        {isDraft
          ? `draft, ${changeIn(latest, draft.content, differences)}`
          : `revision ${app.draftRevision ?? app.latest.number}${isLive ? " · live" : ""}`}
      </div>
      {checked && (
        <div>
          <Link href={checked.href}>{checked.words}</Link>
        </div>
      )}
      <div className={styles.links}>
        {!isLive && <Action onClick={() => putLive()}>make live</Action>}
        {app.latest.number > 1 && <Action onClick={onShowRevisions}>revisions</Action>}
        {isDraft && (
          <Action onClick={onShowChange} aria-expanded={showsChange}>
            {showsChange ? "hide change" : "see change"}
          </Action>
        )}
      </div>
    </>
  );
}

/** When the draft was checked last as it stands, and how it came out; undefined where an app has no checks. */
function useChecked({ slug, draftHash }: App): { href: string; words: string } | undefined {
  const { data } = useQuery({
    queryKey: [...keys.runs(slug), "draft", draftHash],
    queryFn: () => server.send(checks.draft, { slug }),
    staleTime: 0,
  });
  if (!data?.hasChecks) return undefined;
  const { checked } = data;
  if (!checked) return { href: `/apps/${slug}/checks`, words: "not checked as it stands" };
  const { run, at, held, of, worse, perhapsWorse } = checked;
  const said = [
    worse.length > 0 && `${worse.length} worse`,
    perhapsWorse.length > 0 && `${perhapsWorse.length} perhaps worse`,
  ];
  const outcome = said.filter(Boolean).join(", ") || `${held} of ${of} held`;
  return { href: `/apps/${slug}/checks?run=${run}`, words: `checked ${moment(at, Date.now())}: ${outcome}` };
}

/** What changed in a word or two. */
function changeIn(before: Content, after: Content, differences: Differences | undefined): string {
  const words = differences?.kind === "parts" ? wordsChanged(differences.parts) : 0;
  const isPrompt = before.prompt !== after.prompt;
  const changed = [
    isPrompt && differences?.kind === "throughout" && "changed throughout",
    isPrompt && words > 0 && `changed ${many(words, "word")}`,
    !sameContent({ ...before, prompt: "" }, { ...after, prompt: "" }) && "settings changed",
  ];
  return changed.filter(Boolean).join(", ") || "not changed";
}
