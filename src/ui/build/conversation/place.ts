import { ulid } from "ulid";

/** A conversation that is looked at. */
export interface Place {
  id: string;
  /** Whether it was begun: one that was not has its id already, for what is written in it. */
  isBegun: boolean;
}

/** A conversation that does not exist yet. */
export function newPlace(): Place {
  return { id: `con_${ulid().toLowerCase()}`, isBegun: false };
}

/** The place that an address names; undefined where it names none. */
export function placeIn(search: string): Place | undefined {
  const named = new URLSearchParams(search);
  const begun = named.get("conversation");
  if (begun && begun !== "new") return { id: begun, isBegun: true };
  const begins = named.get("begins");
  return begins && /^con_[0-9a-hjkmnp-tv-z]{26}$/.test(begins) ? { id: begins, isBegun: false } : undefined;
}

/** A place as the address says it. */
export function searchOf({ id, isBegun }: Place): string {
  return `?${new URLSearchParams({ [isBegun ? "conversation" : "begins"]: id })}`;
}

type Keep = Pick<Storage, "getItem" | "setItem" | "removeItem">;

/** What a browser keeps: for this tab, and for all. */
export interface Keeps {
  tab: () => Keep;
  browser: () => Keep;
}

/**
 * The conversation of an app that this tab begins next: the same until it was begun, so that what is written in it is
 * found again after a reload. A new tab takes up the one that was left with something written in it.
 */
export function nextPlace(keeps: Keeps, slug: string): Place {
  const name = nameFor(slug);
  try {
    const own = placeIn(`?begins=${keeps.tab().getItem(name)}`);
    const left = placeIn(`?begins=${keeps.browser().getItem(name)}`);
    // what is taken up here is left to no other tab
    if (left && (!own || own.id === left.id)) keeps.browser().removeItem(name);
    const place = own ?? left;
    if (!place) return freshPlace(keeps, slug);
    if (!own) keeps.tab().setItem(name, place.id);
    return place;
  } catch {
    // a browser that keeps nothing begins with nothing written
    return newPlace();
  }
}

/** Another conversation to be begun, which the next one of this tab is from here on. */
export function freshPlace(keeps: Keeps, slug: string): Place {
  const place = newPlace();
  try {
    keeps.tab().setItem(nameFor(slug), place.id);
  } catch (error) {
    console.warn(`What is written in a new conversation is not found again after a reload: ${error}`);
  }
  return place;
}

/** Leaves the conversation that was to be begun to the next tab: this one is closed, and something is written in it. */
export function leavePlace(keeps: Keeps, slug: string): void {
  try {
    const id = keeps.tab().getItem(nameFor(slug));
    if (id) keeps.browser().setItem(nameFor(slug), id);
  } catch {
    // nothing is found again in a browser that keeps nothing
  }
}

function nameFor(slug: string): string {
  return `finch.begins.${slug}`;
}
