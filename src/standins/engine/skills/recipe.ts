import { type Dish, dishes, substitutes } from "../known/known";
import type { Skill } from "../scene";
import { listed } from "../words";

interface Wanted {
  /** The dish's name. */
  dish: string;
  /** Ingredients that are not wanted. */
  without: string[];
  /** For how many people. */
  people: number;
  asks?: "why" | "shopping";
}

const without =
  /\b(?:without|no|leave out|skip|omit|instead of|replace|free of|(?:i'm|i am|we are|i) (?:allergic to|(?:don't|do not|can't|cannot) eat|don't have|have no))\s+(?:the |any )?(\p{L}+(?:,? (?:and|or) \p{L}+)?)/giu;

/** Writes a short recipe, and the same without an ingredient or for more people. */
export const recipe: Skill<Wanted> = {
  name: "a recipe",
  isWorded: true,
  about: /\b(?:cook\w*|food|recipes?|kitchen|bak\w+|meals?|dishes|nutrition)\b/i,
  read(message, before) {
    const isAsked =
      /\brecipes?\b|\bhow (?:do|can|should) (?:i|you|we) (?:make|cook|bake|prepare)\b|\bwhat (?:can|should|could) (?:i|we) (?:cook|bake)\b|\bcook(?:ing)? (?:me|something|dinner|lunch)\b|\bingredients (?:for|of)\b/i.test(
        message,
      );
    const people = Number(
      /\bfor (\d+)(?: people| persons| of us| guests)?\b/i.exec(message)?.[1] ?? before?.people ?? 4,
    );
    const unwanted = unwantedIn(message);
    const named = dishes.find(({ called }) => called.test(message.replace(without, "")));
    if (isAsked) return { dish: (named ?? nextOf(before?.dish, message)).name, without: unwanted, people };
    if (!before) return undefined;
    if (/\b(?:another|a different|something else|other recipe|next)\b/i.test(message))
      return { dish: nextOf(before.dish, message).name, without: unwanted, people };
    if (unwanted.length > 0) return { ...before, without: [...new Set([...before.without, ...unwanted])], people };
    if (people !== before.people) return { ...before, people };
    if (/^why\b/i.test(message)) return { ...before, asks: "why" };
    if (/\b(?:shopping list|what (?:do|must|should) (?:i|we) (?:need|buy))\b/i.test(message))
      return { ...before, asks: "shopping" };
    return undefined;
  },
  say({ dish: name, without: unwanted, people, asks }, { choices }) {
    const dish = dishes.find((each) => each.name === name) as Dish;
    const used = ingredientsOf(dish, unwanted);
    const items = used.flatMap(({ amount, what }) => (what ? [`- ${scaled(amount, people / 4)} ${what}`] : []));
    if (asks === "shopping") return `For ${people}:\n\n${items.join("\n")}`;
    if (asks === "why")
      return `The order matters: ${lower(stepOf(dish.steps[0] ?? "", used))} Only then does the rest hold together.`;
    const title = `## ${dish.name}${unwanted.length > 0 ? ` without ${listed(unwanted)}` : ""}`;
    const lead = choices.one([`For ${people}:`, `This serves ${people}:`, `Enough for ${people}:`]);
    const steps = dish.steps
      .map((step) => stepOf(step, used))
      .filter(Boolean)
      .map((step, at) => `${at + 1}. ${step}`);
    const wish = choices.one(["Good appetite.", "Best while it is warm.", "It keeps until the next day."]);
    return [title, lead, items.join("\n"), steps.join("\n"), wish].join("\n\n");
  },
};

function unwantedIn(message: string): string[] {
  return [...message.matchAll(without)]
    .flatMap(([, words = ""]) => words.toLowerCase().split(/,? (?:and|or) /))
    .map((word) =>
      /^(?:egg|onion|tomato|potato|lemon)$/.test(word) ? `${word}${/to$/.test(word) ? "es" : "s"}` : word,
    )
    .filter((word) => !/^(?:it|that|more|meat|problem|idea|time)$/.test(word));
}

function nextOf(before: string | undefined, message: string): Dish {
  if (before === undefined) {
    const letters = [...message].reduce((sum, letter) => sum + letter.charCodeAt(0), 0);
    return dishes[letters % dishes.length] as Dish;
  }
  const at = dishes.findIndex(({ name }) => name === before);
  return dishes[(at + 1) % dishes.length] as Dish;
}

interface Used {
  /** The ingredient as the dish has it. */
  was: string;
  amount: string;
  /** What is taken; none where it is left out. */
  what: string | undefined;
}

function ingredientsOf(dish: Dish, unwanted: readonly string[]): Used[] {
  return dish.ingredients.map(([amount, was]) => {
    if (!unwanted.some((each) => was.includes(each) || each.includes(was))) return { was, amount, what: was };
    const instead = substitutes[was];
    return instead ? { was, amount: instead[0], what: instead[1] } : { was, amount: "", what: undefined };
  });
}

/** A step with its ingredients as they are used; empty where nothing of it is left. */
function stepOf(step: string, used: readonly Used[]): string {
  const named = [...step.matchAll(/\{(.+?)\}/g)].map(([, was]) => used.find((each) => each.was === was));
  if (named.length > 0 && named.every((each) => each?.what === undefined)) return "";
  return step
    .replace(
      /\{(.+?)\}/g,
      (_, was: string) => used.find((each) => each.was === was)?.what?.replace(/,.*$/, "") ?? "\uE000",
    )
    .replace(/(?:, | and |, then )?(?:chopped |sliced |grated |boiled )?\uE000/g, "")
    .replace(/^(\p{L}+) (?:,|and) /u, "$1 ");
}

function scaled(amount: string, factor: number): string {
  return amount.replace(/^\d+/, (number) => String(Math.round(Number(number) * factor * 2) / 2));
}

function lower(text: string): string {
  return text.charAt(0).toLowerCase() + text.slice(1);
}
