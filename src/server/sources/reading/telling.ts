import type { PageLinks } from "@/core/sources/below";
import type { Passage } from "@/core/sources/cutting";
import type { Block } from "@/core/sources/document";
import type { DocumentKind } from "@/core/sources/kinds";
import type { UnreadPart } from "@/core/sources/origin";

/** What the process that reads documents is told to do: one thing after the other. */
export type Task =
  /** `from` is the first part that is wanted, from 1. */
  | { task: "read"; path: string; kind: DocumentKind; from: number }
  | { task: "cut"; blocks: Block[]; cut: CutOf }
  /** Tells what a page leads to. */
  | { task: "links"; path: string };

export interface CutOf {
  size: number;
  overlap: number;
}

/** Passages with the tokens that they are estimated to have together. */
export interface CutPassages {
  passages: Passage[];
  tokens: number;
}

/** What it says of that. It waits after each part and each lot of passages until it is told `taken`. */
export type Told =
  /** In how many parts the document is read. */
  | { said: "parts"; parts: number }
  | { said: "part"; place: number; blocks: Block[]; unread: UnreadPart["why"] | null }
  | ({ said: "passages" } & CutPassages)
  | ({ said: "links" } & PageLinks)
  /** All of it is done; `bytes` are those that the process has. */
  | { said: "end"; bytes: number }
  /** Why it can't be read: goes on from the name of the document. */
  | { said: "failed"; why: string; bytes: number };

/** What it is told once it may go on. */
export const taken = "taken";

/** Thrown where a document can't be read; the message goes on from its name. */
export class Unreadable extends Error {}
