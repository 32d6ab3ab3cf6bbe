import { furtherSamples } from "./further";
import { standInSamples } from "./stand-ins";

export { answersToFitting, canonicalCall, type Sample, sampleKey } from "./sample";

/** All of them. */
export const samples = [...standInSamples, ...furtherSamples];
