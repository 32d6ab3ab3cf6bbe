import { type RefObject, useCallback, useEffect, useState } from "react";
import { wordsForFailure } from "@/core/look/words";
import type { TakenDocuments } from "@/core/serving/sent";
import type { Failure, OwnDocument, Talk } from "@/module/talk";
import { useDropped } from "../shared/use-dropped";
import { useInTurn } from "../shared/use-in-turn";
import type { Dress } from "./dress";

interface Props {
  look: Dress;
  talk: Talk;
  takes: TakenDocuments;
  /** Is told whether a question had better wait, since a document that was just handed in is being read. */
  onBusy: (isBusy: boolean) => void;
  /** Where the visitor writes. */
  field: RefObject<HTMLTextAreaElement | null>;
}

/** Milliseconds between two looks at what is read, and for which a question waits for it. */
const often = 600;
const mostWait = 20_000;

/** The visitor's own documents, from which nobody else is answered: picked, dropped, or by address. Fetched where an app takes some. */
export default function DocumentField({ look, talk, takes, onBusy, field }: Props) {
  const own = useOwn(talk);
  const [underWay, setUnderWay] = useState(0);
  const [wrong, setWrong] = useState("");
  const [isAddress, setAddress] = useState(false);
  const reading = own.documents.filter(({ state }) => state === "reading");
  const isWaiting = useAtMost(own.isFresh && reading.length > 0, mostWait);
  useEffect(() => onBusy(underWay > 0 || isWaiting), [underWay, isWaiting, onBusy]);
  // the first may be what makes this visitor one
  const inTurn = useInTurn();
  const take = (hand: () => Promise<OwnDocument>) => {
    setWrong("");
    setUnderWay((before) => before + 1);
    inTurn(() =>
      hand()
        .then(own.add)
        .catch((error) => setWrong(wordsFor(look, takes, error)))
        .finally(() => setUnderWay((before) => before - 1)),
    );
  };
  const takeFiles = (files: Iterable<File>) => {
    for (const file of files) take(() => talk.handIn(file, file.name));
  };
  useDropped(takeFiles, (file) => !file.type.startsWith("image/"));
  return (
    <section className="talk-documents" aria-label="Your documents">
      {own.documents.length > 0 && (
        <ul>
          {own.documents.map((document) => (
            <Own
              key={document.document}
              document={document}
              look={own.look}
              forget={async () => {
                await talk.forgetDocument(document.document).catch((error) => setWrong(wordsFor(look, takes, error)));
                await own.look();
                field.current?.focus();
              }}
            />
          ))}
        </ul>
      )}
      <label className="talk-word talk-pick">
        Add a document
        <input
          type="file"
          multiple
          accept=".txt,.md,.html,.htm,.csv,.docx,.pdf,text/*,application/pdf"
          onChange={(event) => {
            takeFiles([...(event.target.files ?? [])]);
            event.target.value = "";
            field.current?.focus();
          }}
        />
      </label>
      {takes.addresses &&
        (isAddress ? (
          <AddressField
            take={(url) => {
              take(() => talk.handInAddress(url));
              setAddress(false);
              field.current?.focus();
            }}
            leave={() => {
              setAddress(false);
              field.current?.focus();
            }}
          />
        ) : (
          <button type="button" className="talk-word" onClick={() => setAddress(true)}>
            Add an address
          </button>
        ))}
      <p role="status">
        {underWay > 0 && "A document is handed in. "}
        {isWaiting && "It is read first; then you can ask. "}
        {wrong}
      </p>
    </section>
  );
}

/** One document, with how it stands. */
function Own({
  document,
  look,
  forget,
}: {
  document: OwnDocument;
  /** Looks what goes along with it by now. */
  look: () => Promise<void>;
  forget: () => Promise<void>;
}) {
  const [isAsked, setAsked] = useState(false);
  const [isGoing, setGoing] = useState(false);
  const { title, state, conversations } = document;
  const along = { 0: "", 1: " and the conversation in which it was looked through" }[conversations];
  return (
    <li data-state={state}>
      <span dir="auto">{title}</span>
      {state === "reading" && <small>is being read</small>}
      {state === "failed" && <small>can’t be read</small>}
      {isAsked ? (
        <>
          <small>
            Forget it{along ?? ` and the ${conversations} conversations in which it was looked through`} for good?
          </small>
          <button
            type="button"
            className="talk-word"
            disabled={isGoing}
            // biome-ignore lint/a11y/noAutofocus: the place of the button that was pressed just now
            autoFocus
            aria-label={`Forget ${title} for good`}
            onClick={() => {
              setGoing(true);
              void forget().finally(() => setGoing(false));
            }}
          >
            Forget
          </button>
          <button type="button" className="talk-word" onClick={() => setAsked(false)}>
            Keep it
          </button>
        </>
      ) : (
        <button
          type="button"
          className="talk-word"
          aria-label={`Forget ${title}`}
          onClick={() => void look().then(() => setAsked(true))}
        >
          Forget
        </button>
      )}
    </li>
  );
}

/** Where an address is written. It is no form of its own: it stands in that of the message. */
function AddressField({ take, leave }: { take: (url: string) => void; leave: () => void }) {
  const [url, setUrl] = useState("");
  const add = () => url.trim() !== "" && take(url.trim());
  return (
    <span className="talk-address">
      <input
        type="url"
        value={url}
        // biome-ignore lint/a11y/noAutofocus: the place of the button that was pressed just now
        autoFocus
        aria-label="Address of a document"
        placeholder="https://"
        onChange={(event) => setUrl(event.target.value)}
        onKeyDown={(event) => {
          if (event.key !== "Enter" && event.key !== "Escape") return;
          event.preventDefault();
          event.stopPropagation();
          if (event.key === "Enter") add();
          else leave();
        }}
      />
      <button type="button" className="talk-word" onClick={add}>
        Add
      </button>
      <button type="button" className="talk-word" onClick={leave}>
        Leave it
      </button>
    </span>
  );
}

/** The visitor's documents, looked at again while one is being read; and whether one was handed in since the page came. */
function useOwn(talk: Talk) {
  const [documents, setDocuments] = useState<OwnDocument[]>([]);
  const [isFresh, setFresh] = useState(false);
  const look = useCallback(async () => {
    // what can't be listed now is listed with the next look
    const all = await talk.documents().catch(() => undefined);
    if (all) setDocuments(all);
  }, [talk]);
  const add = useCallback((added: OwnDocument) => {
    setFresh(true);
    setDocuments((before) => [...before.filter(({ document }) => document !== added.document), added]);
  }, []);
  const isReading = documents.some(({ state }) => state === "reading");
  useEffect(() => {
    void look();
  }, [look]);
  useEffect(() => {
    if (!isReading) return;
    const timer = setInterval(look, often);
    return () => clearInterval(timer);
  }, [isReading, look]);
  return { documents, isFresh, add, look };
}

/** Whether something is so, for some milliseconds at most. */
function useAtMost(isSo: boolean, milliseconds: number): boolean {
  const [isOver, setOver] = useState(false);
  useEffect(() => {
    setOver(false);
    if (!isSo) return;
    const timer = setTimeout(() => setOver(true), milliseconds);
    return () => clearTimeout(timer);
  }, [isSo, milliseconds]);
  return isSo && !isOver;
}

/** Why a document was not taken, in words for a visitor. */
function wordsFor(look: Dress, { most, largest }: TakenDocuments, error: unknown): string {
  const kind = (error as { failure?: Failure }).failure?.kind ?? "internal";
  const own: Record<string, string> = {
    conflict: `You may have ${most} ${most === 1 ? "document" : "documents"} here. Forget one first.`,
    "too-large": `A document has ${Math.round((largest / 1024 / 1024) * 10) / 10} MiB at most.`,
    "bad-request": "That can’t be read. Take text, a page, a table, a DOCX or a PDF.",
    unreachable: "What stands at that address can’t be had.",
    "bad-reply": "What stands at that address can’t be had.",
    forbidden: "No documents are taken here just now.",
  };
  return own[kind] ?? wordsForFailure(look, kind);
}
