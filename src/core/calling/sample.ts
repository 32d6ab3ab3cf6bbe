import type { CallsWith, SampleCall, Way } from "./call";
import { javaSample } from "./java";
import { browserSample, nodeSample } from "./javascript";
import { phpSample } from "./php";
import { pythonSample } from "./python";
import { rubySample } from "./ruby";
import { shellSample } from "./shell";

/** Where a call can be made from. */
export const places = ["shell", "browser", "node", "python", "php", "ruby", "java"] as const;
export type Place = (typeof places)[number];

/** What is to be called. */
export interface Wanted {
  /** Scheme, host and port. */
  base: string;
  slug: string;
  visitor: string;
  with: CallsWith;
  /** What it calls with; a word stands in the place of one that is not known. */
  token: string;
  way: Way;
  message: string;
  /** Values for the variables that the app's prompt leaves to calls. */
  variables: Record<string, string>;
  /** The conversation to go on with. */
  conversation?: string;
  /** Whether the call is one that is refused, to see how. */
  isWrong: boolean;
}

const samples: Record<Place, (call: SampleCall) => string> = {
  shell: shellSample,
  browser: browserSample,
  node: nodeSample,
  python: pythonSample,
  php: phpSample,
  ruby: rubySample,
  java: javaSample,
};

/** What a call can be made with from each place: a page that anybody can read holds no token of a server. */
export function waysIn(place: Place): readonly CallsWith[] {
  return place === "browser" ? ["nothing", "public", "site"] : ["nothing", "server"];
}

/** What stands in the place of each. */
const tokenWords: Record<CallsWith, string> = {
  nothing: "",
  server: "YOUR_TOKEN",
  public: "YOUR_PUBLIC_TOKEN",
  site: "YOUR_IDENTITY",
};

/** The call that is wanted. A wrong one misspells its message. */
export function callFor(wanted: Wanted): SampleCall {
  const { base, slug, visitor, way, message, variables, conversation, isWrong } = wanted;
  return {
    app: `${base}/api/apps/${slug}`,
    // who calls under the other two is known by them
    visitor: wanted.with === "nothing" || wanted.with === "server" ? visitor : "",
    with: wanted.with,
    token: wanted.with === "nothing" ? "" : wanted.token || tokenWords[wanted.with],
    way,
    body: {
      ...(isWrong ? { mesage: message } : { message }),
      ...(conversation === undefined ? {} : { conversation }),
      ...(Object.keys(variables).length === 0 ? {} : { variables }),
    },
  };
}

/** A program that makes a call, complete: it runs as it stands. */
export function sampleFor(place: Place, call: SampleCall): string {
  return samples[place](call);
}
