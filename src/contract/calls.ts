import { apps } from "./apps";
import { benchConversations, conversations } from "./conversations";
import { dispatches } from "./dispatches";
import { health } from "./health";
import { providers } from "./providers";
import { benchReplies, replies } from "./replies";

/** Every call that crosses HTTP, by its noun. */
export const calls = {
  server: { health },
  apps,
  benchConversations,
  benchReplies,
  conversations,
  dispatches,
  providers,
  replies,
};
