import type { Content } from "./content";

/** A number of an app that points to a content for good. */
export interface Revision {
  /** Counted from 1 within the app. */
  number: number;
  /** Of the content. */
  hash: string;
  content: Content;
}
