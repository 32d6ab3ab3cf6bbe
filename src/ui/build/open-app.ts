import type { QueryClient } from "@tanstack/react-query";
import { type App, apps } from "@/contract/apps";
import type { ProblemDocument } from "@/contract/problem";
import { failureIn, server } from "../shared/api";
import type { LiveReplies } from "../shared/live-replies";
import { keptPictures } from "../shared/pictures/use-kept-pictures";
import { keys } from "../shared/queries";
import { keptTexts } from "../shared/use-kept-text";
import { liveReplies } from "../shared/use-live-reply";
import { ConversationStore } from "./conversation/conversation-store";
import { DraftNotStored, DraftStore } from "./draft/draft-store";

/** What of an app is open in this tab: its draft, and the conversations that are shown or wait for something. */
export class OpenApp {
  readonly draft: DraftStore;
  private readonly conversations = new Map<string, ConversationStore>();
  /** How often each of them is shown. */
  private readonly shown = new Map<string, number>();

  constructor(
    private readonly app: App,
    private readonly client: QueryClient,
    private readonly live: LiveReplies,
  ) {
    const { slug } = app;
    this.draft = new DraftStore(app, {
      read: () => server.send(apps.read, { slug }),
      store: (content, draftHash) => server.send(apps.setDraft, { slug, body: { content, draftHash } }),
      putLive: (content, despite) => server.send(apps.putLive, { slug, body: { content, despite } }),
      tell: (stored) => client.setQueryData(keys.app(slug), stored),
      problemIn: (error) => documentIn(error, "The draft"),
    });
    live.onApp((changed) => changed.slug === slug && void this.draft.hear(changed.draftHash));
    live.onMissed(() => void this.draft.hear());
  }

  /** The conversation of an id, the same for as long as it is open. @param isBegun whether the server has it */
  at(id: string, isBegun: boolean): ConversationStore {
    const open = this.conversations.get(id);
    if (open) return open;
    const { slug } = this.app;
    const begun = new ConversationStore(id, isBegun, {
      slug,
      server,
      live: this.live,
      texts: keptTexts,
      pictures: keptPictures,
      draft: this.draft,
      tellSaid: () => {
        void this.client.invalidateQueries({ queryKey: ["conversations"] });
        void this.client.invalidateQueries({ queryKey: keys.line(id) });
        void this.client.invalidateQueries({ queryKey: keys.app(slug) });
        void this.client.invalidateQueries({ queryKey: keys.providers });
      },
      problemIn: (error, what) => (error instanceof DraftNotStored ? error.problem : failureIn(error, what).problem),
    });
    this.conversations.set(id, begun);
    return begun;
  }

  /** Keeps a conversation open for as long as it is shown; returns how to leave it. */
  show(id: string): () => void {
    this.shown.set(id, (this.shown.get(id) ?? 0) + 1);
    return () => {
      this.shown.set(id, (this.shown.get(id) ?? 1) - 1);
      // what is shown anew at once stays open
      setTimeout(() => this.letGo(), 0);
    };
  }

  /** Lets go of those that nobody looks at and in which nothing waits. */
  private letGo(): void {
    for (const [id, conversation] of this.conversations) {
      if ((this.shown.get(id) ?? 0) > 0 || conversation.isBusy) continue;
      conversation.close();
      this.conversations.delete(id);
      this.shown.delete(id);
    }
  }
}

function documentIn(error: unknown, what: string): ProblemDocument {
  return failureIn(error, what).problem;
}

/** Apps that are open in this tab: what is edited and waits in one stays there while another view is looked at. */
const open = new Map<string, { client: QueryClient; app: OpenApp }>();

/** The app as it is open in this tab. */
export function openApp(app: App, client: QueryClient): OpenApp {
  const known = open.get(app.slug);
  if (known?.client === client) {
    // it may have been changed, or made anew under that name, while nobody looked
    void known.app.draft.hear(app.draftHash);
    return known.app;
  }
  const opened = new OpenApp(app, client, liveReplies);
  open.set(app.slug, { client, app: opened });
  return opened;
}
