import type { App } from "@/contract/apps";
import type { ProblemDocument } from "@/contract/problem";
import type { Problem } from "@/core/problem/problem";
import type { Content } from "@/core/revision/content";
import { Store } from "../../shared/store";
import {
  afterConflict,
  afterHearing,
  afterStoring,
  chosen,
  type Draft,
  edited,
  isEdited,
  readDraft,
  type StoredDraft,
} from "./draft";

/** Milliseconds after the last keystroke at which an edit is stored. */
const patience = 400;

/** What a draft needs of the server. */
export interface DraftServer {
  /** Reads the app as it is stored. */
  read: () => Promise<App>;
  /** Stores an edit of the draft with that hash. @throws the problem document that came back */
  store: (content: Content, hash: string) => Promise<App>;
  /** @param despite what is told of it, and known */
  putLive: (content: Content, despite?: "worse") => Promise<App>;
  /** Is told what the server knows of the app by now. */
  tell: (app: App) => void;
  /** What went wrong, as a problem. */
  problemIn: (error: unknown) => ProblemDocument;
}

/** A draft with why its last edit could not be stored. */
export interface DraftState extends Draft {
  failure: Problem | undefined;
}

/**
 * The draft of an app as this tab edits it: shown at once, stored a moment later, one edit after another. What other
 * tabs store comes along; where both changed the same part, nothing more is stored until one of them is chosen.
 */
export class DraftStore extends Store<DraftState> {
  private timer: ReturnType<typeof setTimeout> | undefined;
  /** The save before, which the next one waits for. */
  private last: Promise<void> = Promise.resolve();

  constructor(
    stored: StoredDraft,
    private readonly server: DraftServer,
  ) {
    super({ ...readDraft(stored), failure: undefined });
  }

  /** Whether it holds edits that the server has not. */
  get isUnstored(): boolean {
    return isEdited(this.state);
  }

  readonly edit = (change: Partial<Content>): void => {
    this.put(edited(this.state, change));
    clearTimeout(this.timer);
    this.timer = setTimeout(() => void this.keep(), patience);
  };

  /** Stores what is not stored yet, after what is being stored. @throws what went wrong */
  readonly save = (): Promise<void> => {
    clearTimeout(this.timer);
    this.last = this.afterLast(() => this.saveNow());
    return this.last;
  };

  /** Stores what is not stored yet; what goes wrong stands in `failure`. */
  readonly keep = async (): Promise<void> => {
    try {
      await this.save();
    } catch {
      // it stands in `failure` already
    }
  };

  /**
   * Reads what another place stored, after what is being stored here: so neither is taken for the other.
   * @param hash of the draft that is stored by now, where that is known
   */
  readonly hear = (hash?: string): Promise<void> => {
    this.last = this.afterLast(async () => {
      if (hash === this.state.hash) return;
      try {
        const app = await this.server.read();
        this.put(afterHearing(this.state, app));
        this.server.tell(app);
      } catch (error) {
        // it is read again once the server is heard again
        console.warn(`What another place stored of the draft could not be read: ${error}`);
      }
    });
    return this.last;
  };

  readonly choose = async (which: "mine" | "theirs"): Promise<void> => {
    this.put(chosen(this.state, which));
    await this.keep();
  };

  /** Puts the draft live, or other content. @param despite as of the server's call */
  readonly putLive = async (other?: Content, despite?: "worse"): Promise<void> => {
    await this.save();
    this.server.tell(await this.server.putLive(other ?? this.state.content, despite));
  };

  /** Does something after what is being stored, however that comes out. */
  private async afterLast(work: () => Promise<void>): Promise<void> {
    await Promise.allSettled([this.last]);
    await work();
  }

  private async saveNow(): Promise<void> {
    const { content, hash, conflict } = this.state;
    if (conflict) throw this.fail(conflictOf(conflict));
    if (!isEdited(this.state)) return;
    try {
      const app = await this.server.store(content, hash);
      this.set({ ...afterStoring(this.state, content, app), failure: undefined });
      this.server.tell(app);
    } catch (error) {
      const problem = this.server.problemIn(error);
      const { draft: standing } = problem;
      if (standing)
        this.put(
          afterConflict(this.state, { draft: standing.content, draftHash: standing.hash, parts: standing.parts }),
        );
      throw this.fail({ ...problem, detail: `The draft is not stored. ${problem.detail}` });
    }
  }

  private fail(failure: Problem): DraftNotStored {
    this.set({ ...this.state, failure });
    return new DraftNotStored(failure);
  }

  /** Puts an edit in its place; what failed before stays said until something is stored. */
  private put(draft: Draft): void {
    const { failure } = this.state;
    this.set({ ...draft, failure: draft.conflict || isEdited(draft) ? failure : undefined });
  }
}

/** Thrown where a draft can't be stored. */
export class DraftNotStored extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail);
  }
}

function conflictOf({ parts }: NonNullable<Draft["conflict"]>): Problem {
  return {
    kind: "conflict",
    detail: `The draft is not stored. The ${parts.join(" and the ")} ${parts.length === 1 ? "was" : "were"} changed in another place meanwhile.`,
    advice: "Choose which of the two is kept.",
  };
}
