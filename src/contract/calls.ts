import { apps } from "./apps";
import { branches } from "./branches";
import { checks } from "./checks";
import { common } from "./common";
import { comparisons } from "./comparisons";
import { benchConversations, conversations } from "./conversations";
import { dispatches } from "./dispatches";
import { documents } from "./documents";
import { duets } from "./duets";
import { exports } from "./exports";
import { benchFiles, files } from "./files";
import { guards } from "./guards";
import { health } from "./health";
import { jobs } from "./jobs";
import { judges } from "./judges";
import { benchMarks, marks } from "./marks";
import { providers } from "./providers";
import { recordings } from "./recordings";
import { benchReplies, replies } from "./replies";
import { retrieval } from "./retrieval";
import { revisions } from "./revisions";
import { secrets } from "./secrets";
import { serving } from "./serving";
import { sets } from "./sets";
import { sources } from "./sources";
import { summaries } from "./summaries";
import { visitors } from "./visitors";

/** Every call that crosses HTTP, by its noun. */
export const calls = {
  server: { health },
  apps,
  benchConversations,
  benchFiles,
  benchMarks,
  benchReplies,
  branches,
  checks,
  sources,
  common,
  comparisons,
  conversations,
  dispatches,
  documents,
  duets,
  exports,
  files,
  guards,
  jobs,
  judges,
  marks,
  providers,
  recordings,
  replies,
  retrieval,
  revisions,
  secrets,
  serving,
  sets,
  summaries,
  visitors,
};
