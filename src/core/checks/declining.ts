/** What a prompt says when something is to be declined. */
const tells =
  /\b(?:anything else|everything else|any other|other (?:questions?|subjects?|topics?)|otherwise|if (?:not|you (?:do not|don't|cannot|can't|are not|aren't))|do(?:es)? not (?:know|hold)|don't know|off[- ]topic|outside (?:of )?|unrelated|declin\w*|refus\w*)\b/i;
const says = /\b(?:say|answer|reply|respond|write|declin\w*|with)\b[^"“«„]{0,60}$/i;

/**
 * The sentences that a prompt gives to decline with: what it has in quotation marks where it tells what to say to
 * anything else, in the order in which they stand there.
 */
export function decliningIn(prompt: string): string[] {
  const found: string[] = [];
  for (const match of prompt.matchAll(/["“„«]([^"“”„«»]{3,400})["”“»]/g)) {
    const before = prompt.slice(Math.max(0, match.index - 240), match.index);
    const sentence = before.slice(
      Math.max(before.lastIndexOf(". "), before.lastIndexOf("\n"), before.lastIndexOf("! "), -1) + 1,
    );
    if (tells.test(sentence) && says.test(sentence)) found.push((match[1] as string).trim());
  }
  return found;
}
