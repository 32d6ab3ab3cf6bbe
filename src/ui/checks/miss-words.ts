import type { Miss } from "@/contract/checks";
import { type Expectation, tellJudged, writeExpectation } from "@/core/checks/expectations/expectations";
import { lackingIn } from "@/core/checks/lacking";
import { changesBetween } from "@/core/revision/changes";
import type { Content } from "@/core/revision/content";
import { wordsOfMemory } from "../shared/wording/memory";
import { wordsFor } from "../shared/wording/reasons";

/** What a reply did instead of what was expected: "it said 8 sentences: …". */
export function sawWords(miss: Miss, expectation: Expectation): string {
  const { judged, problem } = miss;
  if (judged.outcome === "silent" && problem) return `nothing to judge: ${problem.detail}`;
  return `it ${tellJudged(expectation, judged)}`;
}

/** Whether what it needed was sent: two faults that are mended in different places. */
export function neededWords({
  judged: { needed },
}: Miss): { isSent: boolean; need: string; where: string } | undefined {
  if (!needed) return undefined;
  if (needed.kind === "not-used") {
    const where = needed.turn === null ? "the prompt says it" : `turn ${needed.turn} says it`;
    return { isSent: true, need: needed.need, where };
  }
  return { isSent: false, need: needed.need, where: `turn ${needed.turn} says it, ${wordsFor(needed.sent.reason)}` };
}

/**
 * What a candidate lacks that the other has, and what else is other in it. Where something was not sent, that is the
 * memory's doing, and nothing of the prompt has to do with it.
 */
export function lacks(
  base: Content,
  content: Content,
  { judged }: Pick<Miss, "judged">,
  expectation: Expectation,
  nameOf: (slug: string) => string,
): { sentences: string[]; changes: string[] } {
  const wasNotSent = judged.needed?.kind === "not-sent" || expectation.kind === "was-sent";
  const changes = changesBetween(base, content, { provider: nameOf, memory: wordsOfMemory });
  return {
    sentences: wasNotSent
      ? []
      : lackingIn(base.prompt, content.prompt, writeExpectation(expectation)).slice(0, mostSentences),
    changes: changes
      .filter(({ what }) => !wasNotSent || what === "memory")
      .map(({ what, was, is }) => `${what}: ${was} → ${is}`)
      .slice(0, mostChanges),
  };
}

/** Sentences of a prompt, and other changes, that are told of one that broke. */
const mostSentences = 2;
const mostChanges = 4;
