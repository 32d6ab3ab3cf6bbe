import { useEffect, useState } from "react";
import type { ListedPage, Talk } from "@/module/talk";
import type { Dress } from "./dress";

/** This visitor's conversations: to go on with, to delete, or to have all of them forgotten. */
export function Conversations({
  talk,
  look,
  current,
  close,
}: {
  talk: Talk;
  look: Dress;
  current: string | null;
  close: () => void;
}) {
  const [listed, setListed] = useState<ListedPage>();
  const [isSure, setSure] = useState(false);
  /** The conversation that is about to be deleted. */
  const [asked, setAsked] = useState<string>();

  useEffect(() => {
    let isWanted = true;
    void talk.list().then((page) => isWanted && setListed(page));
    return () => {
      isWanted = false;
    };
  }, [talk]);

  const remove = async (id: string) => {
    setAsked(undefined);
    await talk.remove(id);
    setListed(await talk.list());
  };

  const more = async (before: string) => {
    const page = await talk.list(before);
    setListed((now) => ({ ...page, conversations: [...(now?.conversations ?? []), ...page.conversations] }));
  };

  const forget = async () => {
    await talk.forget();
    close();
  };

  return (
    <section
      className="talk-list"
      aria-label="Your conversations"
      onKeyDown={(event) => {
        if (event.key === "Escape") close();
      }}
    >
      {listed?.conversations.length === 0 && <p>There are none yet.</p>}
      <ul>
        {listed?.conversations.map(({ id, opening, title, updatedAt }) => (
          <li key={id}>
            <button
              type="button"
              className="talk-open"
              aria-current={id === current || undefined}
              onClick={() => {
                void talk.open(id);
                close();
              }}
            >
              <span dir="auto">{title ?? opening}</span>
              <time>{new Date(updatedAt).toLocaleDateString(look.language, { day: "numeric", month: "short" })}</time>
            </button>
            {asked === id ? (
              <>
                <button
                  type="button"
                  className="talk-word"
                  // biome-ignore lint/a11y/noAutofocus: the place of the button that was pressed just now
                  autoFocus
                  aria-label={`Delete for good: ${opening}`}
                  onClick={() => remove(id)}
                >
                  Delete for good
                </button>
                <button type="button" className="talk-word" onClick={() => setAsked(undefined)}>
                  Keep it
                </button>
              </>
            ) : (
              <button
                type="button"
                className="talk-word"
                aria-label={`Delete: ${opening}`}
                onClick={() => setAsked(id)}
              >
                Delete
              </button>
            )}
          </li>
        ))}
      </ul>
      {listed?.before && (
        <button type="button" className="talk-word" onClick={() => void more(listed.before as string)}>
          Earlier conversations
        </button>
      )}
      <p className="talk-actions">
        {isSure ? (
          <>
            All that you said and handed in here is deleted for good.{" "}
            <button type="button" className="talk-word" onClick={forget}>
              Forget me
            </button>
            <button type="button" className="talk-word" onClick={() => setSure(false)}>
              Keep it
            </button>
          </>
        ) : (
          <button type="button" className="talk-word" onClick={() => setSure(true)}>
            Forget me
          </button>
        )}
        <button type="button" className="talk-word" onClick={close}>
          Close
        </button>
      </p>
    </section>
  );
}
