import { createContext, use } from "react";
import type { DocumentPlace } from "../shared/documents/DocumentSheet";
import type { Acts } from "./conversation/acts";
import type { ConversationStore } from "./conversation/conversation-store";
import type { DraftStore } from "./draft/draft-store";

/** What the rows of Build read from: it changes with the app and the conversation, and with neither's state. */
export interface RowScene {
  /** The name of the app, and its address. */
  app: string;
  slug: string;
  draft: DraftStore;
  conversation: ConversationStore;
  acts: Acts;
  /** Whether the column of figures is shown. */
  hasFigures: boolean;
  /** Opens a document at a place. */
  openDocument: (place: DocumentPlace) => void;
  /** Makes a check of a reply, and goes to where it is weeded. */
  makeCheck: (reply: string) => void;
}

const Scene = createContext<RowScene | undefined>(undefined);

export const RowSceneProvider = Scene;

export function useRowScene(): RowScene {
  const scene = use(Scene);
  if (!scene) throw new Error("A row stands in no scene.");
  return scene;
}
