import chatCompletions from "./chat-completions.json";
import growingArray from "./growing-array.json";
import jsonLines from "./json-lines.json";
import namedEvents from "./named-events.json";
import oneText from "./one-text.json";

/** The wire profiles that ship with the product, by the names of their shapes. */
export const shippedProfiles: Readonly<Record<string, unknown>> = {
  "chat-completions": chatCompletions,
  "named-events": namedEvents,
  "growing-array": growingArray,
  "json-lines": jsonLines,
  "one-text": oneText,
};
