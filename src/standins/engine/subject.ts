import { type Note, notes } from "./known/known";
import type { Matter, Scene } from "./scene";
import { ferry as ferrySkill } from "./skills/ferry";
import { given, told } from "./skills/given";
import { subjects } from "./skills/notes";
import { ferry } from "./world";

/** What a subject may be called, for each field of the notes. */
const fields: Record<Note["field"], RegExp> = {
  science: /\b(?:science|physics|chemistry|biology|medicine|health|math\w*|astronomy)\b/i,
  nature: /\b(?:nature|animals?|plants?|weather|environment|garden\w*|birds?|sea|geography)\b/i,
  technology: /\b(?:technolog\w+|computers?|software|programming|cod\w+|internet|it)\b/i,
  everyday: /\b(?:everyday|household|money|financ\w+|kitchen|food|sport)\b/i,
  society: /\b(?:society|politics|history|law|geography|travel\w*)\b/i,
  arts: /\b(?:arts?|music|literature|paint\w+|books?)\b/i,
};

/** Whether a prompt keeps to a subject, and a message is about something else. */
export function isOff({ manner, asked, talk }: Scene, matter: Matter | undefined): boolean {
  const { subject } = manner;
  if (subject === undefined || matter?.skill.isAlways || matter?.skill === given || matter?.skill === told)
    return false;
  if (shares(subject, asked)) return false;
  // "will they do?" goes on with what was talked of
  const goesOn =
    matter === undefined &&
    talk.length > 1 &&
    /\b(?:they|them|it|that|there|then|those|this)\b/i.test(asked) &&
    asked.split(/\s+/).length <= 6;
  if (ferry.test(subject)) return matter?.skill !== ferrySkill && !ferry.test(asked) && !goesOn;
  if (matter?.skill.about.test(subject)) return false;
  if (matter?.skill === subjects) {
    const { field } = notes.find(({ name }) => name === (matter.wanted as { note: string }).note) as Note;
    return !fields[field].test(subject);
  }
  // what nothing else claims may well belong to it, where the talk was of it before
  return matter !== undefined || !talk.slice(0, -1).some(({ visitor }) => shares(subject, visitor));
}

/** Whether a message has a word of a subject. */
function shares(subject: string, message: string): boolean {
  const words = subject.toLowerCase().match(/\p{L}{4,}/gu) ?? [];
  return words.some(
    (word) =>
      message.toLowerCase().includes(word.replace(/(?:ing|s)$/, "")) &&
      !/^(?:questions?|about|topics?|with|only|help|your|their)$/.test(word),
  );
}
