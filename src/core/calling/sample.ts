import type { SampleCall, Way } from "./call";
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
  way: Way;
  message: string;
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

/** The call that is wanted. A wrong one misspells its only member. */
export function callFor({ base, slug, visitor, way, message, conversation, isWrong }: Wanted): SampleCall {
  const said: Record<string, string> = isWrong ? { mesage: message } : { message };
  return {
    url: `${base}/api/apps/${slug}/replies`,
    visitor,
    way,
    body: conversation === undefined ? said : { ...said, conversation },
  };
}

/** A program that makes a call, complete: it runs as it stands. */
export function sampleFor(place: Place, call: SampleCall): string {
  return samples[place](call);
}
