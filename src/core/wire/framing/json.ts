import { parseShallow } from "../json";
import type { Framing } from "./framing";

/** One JSON document (RFC 8259), read when all of it is there. */
export const json: Framing = {
  saying: "one JSON document",
  usualType: "application/json",
  types: /^application\/(?:[\w.-]+\+)?json\b/i,
  isTold: false,
  isIn(body) {
    const document = parseShallow(body);
    return document !== undefined && !Array.isArray(document);
  },
  around: () => ["", "\n"],
};
