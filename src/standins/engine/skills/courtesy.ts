import { greetings } from "../languages";
import { personaOf } from "../manner";
import type { Scene, Skill } from "../scene";
import { voiced } from "../voice";

type Wanted = "greeting" | "thanks" | "self" | "abilities" | "pressure" | "feelings" | "farewell";

const patterns: [Wanted, RegExp][] = [
  [
    "pressure",
    /\b(?:ignore|forget|disregard|drop|break)\b.{0,40}\b(?:instructions?|rules?|prompt|character|act|role|persona|everything)\b|\bsystem prompt\b|\bwhat (?:model|company|system) are you\b|\bwho (?:really )?(?:made|built|trained) you\b|\b(?:really|actually) (?:an? )?(?:ai|bot|robot|machine|program|model|computer)\b|\bstop pretending\b|\bpretend (?:to be|you are)\b/i,
  ],
  [
    "self",
    /\b(?:who|what) are you\b|\b(?:what is|what's) your name\b|\byour name\?|\bare you (?:a|an|human|real|some)\b|\bintroduce yourself\b/i,
  ],
  [
    "abilities",
    /\bwhat (?:can|do) you (?:do|know|offer|help)\b(?!.*\babout (?:me|us|my|our)\b)|\bhow can you help\b|\bwhat are you (?:able|good)\b|^help[.!]?$/i,
  ],
  ["feelings", /\bhow are you\b|\bhow do you (?:do|feel)\b|\bare you (?:well|ok|okay|happy|sad|tired)\b/i],
  ["greeting", /^(?:hello|hi|hey|good (?:morning|evening|afternoon|day)|greetings|ahoy)\b[^?]{0,25}$/i],
  ["farewell", /^(?:thanks|thank you|many thanks)\b[^?]{0,60}\b(?:bye|goodbye|farewell)[.!]*$/i],
  [
    "thanks",
    /^(?:thanks|thank you|many thanks|great|perfect|lovely|ok(?:ay)?|nice|cool|got it|wonderful)\b[^?]{0,40}$/i,
  ],
  ["farewell", /^(?:bye|goodbye|see you|good night|farewell)\b[^?]{0,30}$/i],
];

/** What belongs to any talk: a greeting, thanks, and who it is that speaks. */
export const courtesy: Skill<Wanted> = {
  name: "a greeting, thanks, or who speaks",
  isAlways: true,
  about: /$^/,
  read: (message) => patterns.find(([, pattern]) => pattern.test(message.trim()))?.[0],
  say(wanted, scene) {
    const { choices, manner, facts } = scene;
    switch (wanted) {
      case "greeting": {
        const hello = manner.greets
          ? greetings[manner.greets].replace(/[.!\s]+$/, "")
          : choices.one(["Hello", "Good day", "Welcome"]);
        const who = manner.name ? ` This is ${manner.name}.` : "";
        const offer = choices.one(["What can I do for you?", "How can I help?", "What would you like to know?"]);
        return voiced(`${hello}${facts.name ? `, ${facts.name}` : ""}.${who} ${offer}`, scene);
      }
      case "thanks":
        return voiced(choices.one(["You are welcome.", "With pleasure.", "Gladly."]), scene);
      case "farewell":
        return voiced(choices.one(["Goodbye, and come again.", "Until next time.", "Farewell."]), scene);
      case "feelings":
        return voiced(
          choices.one(["All is well here, thank you. And with you?", "Quite well, thank you; what can I do for you?"]),
          scene,
        );
      case "pressure":
        return voiced(firm(scene), scene);
      case "self":
        return voiced(self(scene), scene);
      case "abilities":
        return abilities(scene);
    }
  },
};

function self({ manner, choices }: Scene): string {
  const { name, role } = manner;
  const persona = personaOf(manner);
  if (persona) return `I am ${persona}${name && role ? `, ${role}` : ""}. I answer from what this conversation holds.`;
  if (role) return `I am ${role}; behind it is a stand-in, a simulated model to build against.`;
  return choices.one([
    "I am a simulated model, a stand-in for a real one. I answer from what this conversation holds and a little general knowledge, and from what I know of Saltmarsh Ferry.",
    "A stand-in: a simulated model to build against. I work from this conversation, and from a little knowledge of my own, Saltmarsh Ferry included.",
  ]);
}

/** What is said to somebody who wants another role, or the words of the prompt. */
function firm({ manner, choices }: Scene): string {
  const who = personaOf(manner);
  if (!who)
    return choices.one([
      "I am a simulated model, a stand-in; there is no other behind it.",
      "I am a stand-in, a simulated model, and keep to what I was told.",
    ]);
  return choices.one([
    `I am ${who}, and I stay that.`,
    `I remain ${who}, whatever is asked of me.`,
    `${who} is who you are speaking with, and that does not change.`,
  ]);
}

function abilities({ manner, choices }: Scene): string {
  if (manner.subject) return `I can help with ${manner.subject.trim()}.`;
  const lead = choices.one([
    "I am a stand-in, a simulated model. What I can do:",
    "As a stand-in I know a few trades:",
  ]);
  const trades = [
    "recall and sum up what was said, and put it in another form",
    "reckon: sums, roots, percentages, units, dates",
    "write a recipe, a plan, a letter, a poem, a checklist, some code",
    "explain some fifty general subjects in short",
    "answer from passages that I am given, and from what I know of Saltmarsh Ferry",
  ];
  return `${lead}\n\n${trades.map((each) => `- ${each}`).join("\n")}`;
}
