/**
 * How many tokens a text has is the provider's secret. The estimate goes by what tokenizers have
 * in common: a short word is about one token, a long one several, each run of punctuation one,
 * digits go in threes, and scripts without spaces take about a token a character. It is put right
 * per model by what the provider reports (see calibration.ts).
 */

const parts =
  /(\p{Script=Han}|\p{Script=Hiragana}|\p{Script=Katakana}|\p{Script=Hangul}|\p{Script=Thai})|(\p{N}+)|(\p{L}+)|([^\p{L}\p{N}\s]+)|(\n+)/gu;

/** Letters that one token of a word holds, on average. */
const lettersPerToken = 6;

/** Tokens that each message costs beside its text: its role and its borders. */
export const tokensPerMessage = 4;

/** The estimated tokens of a text, 0 or more, before calibration. */
export function estimateTokens(text: string): number {
  let tokens = 0;
  for (const [part, single, digits, word] of text.matchAll(parts)) {
    if (single) tokens += 1;
    else if (digits) tokens += Math.ceil(part.length / 3);
    else if (word) tokens += Math.ceil(part.length / lettersPerToken);
    else tokens += Math.ceil(part.length / 4);
  }
  return tokens;
}
