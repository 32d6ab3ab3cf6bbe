import { type Problem, problem } from "../problem/problem";
import type { Access, sentFrom } from "./access";

/** From where something is sent: the visitors' page, or the endpoints. */
type From = (typeof sentFrom)[number];

/** Why a caller may not send so many pictures with a message; undefined where it may. */
export function picturesRefused(
  { pictures }: Pick<Access, "pictures">,
  from: From,
  count: number,
): Problem | undefined {
  if (count === 0) return undefined;
  if (!pictures.from.includes(from))
    return problem("forbidden", "Callers may send no pictures here.", {
      advice: "Leave them out, or have whoever runs the app allow them in Serve.",
    });
  if (count <= pictures.most) return undefined;
  return problem("bad-request", `A message may have ${pictures.most} pictures here, and this one has ${count}.`, {
    advice: "Send some of them with the next message.",
  });
}

/**
 * Why a caller may hand in no document, or none more; undefined where it may.
 * @param count how many it has already
 */
export function documentRefused(
  { documents }: Pick<Access, "documents">,
  from: From,
  what: "file" | "address",
  count: number,
): Problem | undefined {
  const allow = "Ask without it, or have whoever runs the app allow it in Serve.";
  if (!documents.from.includes(from))
    return problem("forbidden", "Callers may hand in no documents here.", { advice: allow });
  if (what === "address" && documents.addresses === "none")
    return problem("forbidden", "Callers may hand in files here, and no addresses.", {
      advice: "Hand in the document itself.",
    });
  if (count < documents.most) return undefined;
  return problem("conflict", `A visitor may have ${documents.most} documents here.`, {
    advice: "Forget one of them first.",
  });
}

/** Days for which a document is kept whose visitor asks nothing. */
export const keptDays = 30;

/** What the visitors' page takes of documents. */
export interface TakenDocuments {
  /** Of one visitor. */
  most: number;
  /** Bytes of one. */
  largest: number;
  addresses: boolean;
}

/** The documents that visitors of the page may hand in; null where they may hand in none. */
export function documentsOnPage({ documents }: Pick<Access, "documents">): TakenDocuments | null {
  if (!documents.from.includes("page")) return null;
  return { most: documents.most, largest: documents.largest, addresses: documents.addresses !== "none" };
}
