import { piecesOf } from "@/core/conversation/pieces";
import { hiddenExtras, hiddenKey, type WireCall } from "@/core/wire/encode";
import type { CompiledProfile } from "@/core/wire/profile";

/** A call with something of everything that a profile can fill, for showing the request that it makes. */
export function exampleCall(
  profile: CompiledProfile,
  { model, credential, extras }: { model: string; credential: { kind: string }; extras: Record<string, unknown> },
): WireCall {
  return {
    model: model || "the-model",
    key: credential.kind === "none" ? undefined : hiddenKey,
    extras: hiddenExtras(Object.keys(extras)),
    stream: profile.stream !== undefined,
    messages: [
      { role: "system", pieces: piecesOf("You are the desk of Saltmarsh…") },
      { role: "visitor", pieces: piecesOf("Does the 8:10 run?") },
      { role: "app", pieces: piecesOf("Yes, from Mill Quay.") },
      { role: "visitor", pieces: piecesOf("On Sunday too?") },
    ],
    settings: { temperature: 0.7, maxOutput: 800 },
  };
}
