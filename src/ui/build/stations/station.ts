import type { ReactNode } from "react";
import type { App } from "@/contract/apps";
import type { Provider } from "@/contract/providers";
import type { Forecast } from "@/core/context/forecast";
import type { Reply } from "@/core/reply/reply";
import type { Content } from "@/core/revision/content";
import type { DocumentPlace } from "../../shared/documents/DocumentSheet";
import type { AppMessage } from "../conversation/conversation";
import type { SceneFindings } from "../sources/use-question";

/** The draft as it stands, and how it is edited. */
export interface EditedDraft {
  content: Content;
  edit: (change: Partial<Content>) => void;
}

/** What a station is about when nothing is under way. */
export interface StationScene {
  app: App;
  draft: EditedDraft;
  providers: Provider[];
  ahead: Forecast;
  last: AppMessage | undefined;
  onEditPrompt: () => void;
  onShowRevisions: () => void;
  /** Whether the column of figures stands beside the sheet, and what changes that. */
  hasFigures: boolean;
  onFigures: () => void;
  /** What a question finds in the documents. */
  findings: SceneFindings;
  onOpenDocument: (place: DocumentPlace) => void;
}

/** The last reply on its way, or as it ended. */
export interface ReplyScene {
  facts: AppMessage["facts"];
  reply: Reply;
  /** Milliseconds since its first text was waited for. */
  waited: number;
}

/** How a station stands on the way of a message. */
export interface Mark {
  /** What the time is of; left out where there is little room. */
  before?: string;
  time?: string;
  reading?: string;
  state?: "done" | "at" | "failed";
}

/** One stop on the way of a message through the app. One record, in a file of its own. */
export interface Station {
  name: string;
  /** What it says of itself when no message is under way. */
  reading(scene: StationScene): string;
  mark(scene: ReplyScene): Mark;
  /** What it opens: its settings, edited where they stand. */
  Sentence(scene: StationScene): ReactNode;
}
