import { sentencesOf } from "../../checks/measures";

/** How one takes leave, as a sentence or the beginning of one, in some languages. */
const farewells = [
  /^(?:well |so |then |and |ok(?:ay)? )?(?:good ?bye|bye(?: bye)?|farewell|so long|cheerio)\b/,
  /^(?:see you|until (?:next time|then|tomorrow|we meet)|till (?:next time|then)|talk (?:to you )?soon|good night)\b/,
  /^(?:take care|safe travels|all the best|have an? (?:\p{L}+ )?(?:day|evening|night|weekend|trip|crossing|journey|time))\b/u,
  /^(?:auf wiedersehen|auf wiederhören|tschüss|bis (?:bald|dann|morgen)|gute nacht)\b/,
  /^(?:au revoir|à bientôt|bonne (?:journée|soirée|nuit))/,
  /^(?:adiós|hasta (?:luego|pronto|mañana)|buenas noches)/,
  /^(?:arrivederci|a presto|tot ziens)\b/,
  /^(?:さようなら|またね|ではまた)/,
];
/** The end of such a sentence: "thank you, goodbye". */
const endings =
  /(?:^|[,;–—-] ?)(?:good ?bye|bye|farewell|see you(?: (?:soon|then|there|tomorrow))?|auf wiedersehen|tschüss|au revoir|adiós)$/;

/** Sentences at the end of an utterance in which one may take leave, and words that such a sentence has. */
const last = 2;
const mostWords = 14;
/** Characters at the end of an utterance that are read. */
const longestEnd = 2_000;

/** Whether an utterance takes leave: at its end, and not in a question. */
export function saysGoodbye(said: string): boolean {
  const text = said.trim().slice(-longestEnd);
  if (/[?？]["”»)\]*_]*$/.test(text)) return false;
  return sentencesOf(text)
    .slice(-last)
    .some((sentence) => {
      // what is quoted is spoken of, and not said
      const plain = sentence
        .replace(/["“„«][^"”“»]*["”“»]/g, " quoted ")
        .toLowerCase()
        .replace(/[*_`#>]/g, "")
        .replace(/[.!…。！\s]+$/g, "")
        .trim();
      if (plain.split(/\s+/).length > mostWords) return false;
      return farewells.some((farewell) => farewell.test(plain)) || endings.test(plain);
    });
}

/** Whether both took leave of each other: the last two utterances do. */
export function areLeaving(said: readonly string[]): boolean {
  return said.length >= 2 && said.slice(-2).every(saysGoodbye);
}
