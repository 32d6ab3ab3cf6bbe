import { createContext, use } from "react";
import type { Acts } from "./conversation/acts";
import type { ConversationStore } from "./conversation/conversation-store";
import type { DraftStore } from "./draft/draft-store";

/** What the rows of Build read from: it changes with the app and the conversation, and with neither's state. */
export interface RowScene {
  /** The name of the app. */
  app: string;
  draft: DraftStore;
  conversation: ConversationStore;
  acts: Acts;
  /** Whether the column of figures is shown. */
  hasFigures: boolean;
}

const Scene = createContext<RowScene | undefined>(undefined);

export const RowSceneProvider = Scene;

export function useRowScene(): RowScene {
  const scene = use(Scene);
  if (!scene) throw new Error("A row stands in no scene.");
  return scene;
}
