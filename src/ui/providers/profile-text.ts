import { type CompiledProfile, compileProfile, ProfileError } from "@/core/wire/profile";

/** The text of a profile as it is being edited: compiled, or what is wrong with it and where. */
export type ReadProfileText =
  | { profile: CompiledProfile; wrong?: undefined }
  | { profile?: undefined; wrong: string; steps?: (string | number)[] };

/** Reads the text of a profile; `steps` lead to the place where it is wrong, once it is JSON. */
export function readProfileText(text: string): ReadProfileText {
  try {
    return { profile: compileProfile(JSON.parse(text)) };
  } catch (error) {
    if (error instanceof ProfileError) return { wrong: error.message, steps: error.steps };
    if (error instanceof SyntaxError) return { wrong: `This is not JSON yet: ${error.message}` };
    throw error;
  }
}
