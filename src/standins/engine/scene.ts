import type { Facts } from "./facts";
import type { Manner } from "./manner";
import type { Passage } from "./passages";
import type { Choices } from "./random";

/** One message of a request, whatever its API calls the roles. */
export interface Said {
  by: "system" | "visitor" | "app";
  text: string;
}

/** A visitor's message, and what was answered to it; nothing yet to the newest. */
export interface Exchange {
  visitor: string;
  app: string;
}

/** Everything an answer is made from. */
export interface Scene {
  manner: Manner;
  /** The system prompt. */
  prompt: string;
  passages: Passage[];
  facts: Facts;
  /** The whole talk, the newest message last. */
  talk: readonly Exchange[];
  /** The newest message. */
  asked: string;
  choices: Choices;
  isBrief: boolean;
}

/** What a message is about: a skill, and what it wants of it. */
export interface Matter<M = unknown> {
  skill: Skill<M>;
  wanted: M;
}

/** What a message is read with: the messages before it, and the prompt. */
export interface Heard {
  prompt: string;
  before: readonly Exchange[];
}

/** Something that the engine can do. One record, in a file of its own. */
export interface Skill<M> {
  /** What a message of it is about, in a few words. */
  name: string;
  /** Whether it belongs to any conversation, whatever its subject. */
  isAlways?: true;
  /** Whether its answers leave room for words that say nothing of their own. */
  isWorded?: true;
  /** What it is about, in words that a subject may have. */
  about: RegExp;
  /**
   * What a message wants of it; undefined where it wants nothing.
   * @param before what it was about until then, where that was of this skill too: for "another", "and for 81?"
   */
  read(message: string, before: M | undefined, heard: Heard): M | undefined;
  /** The answer, in Markdown. */
  say(wanted: M, scene: Scene): string;
}
