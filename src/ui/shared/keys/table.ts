/** Where a key is heard: in all of the bench, in a view of it, or where something has the focus. */
export type Scope =
  | "bench"
  | "build"
  | "compare"
  | "checks"
  | "script"
  | "history"
  | "reading"
  | "message"
  | "choice"
  | "value"
  | "fact"
  | "answer"
  | "set"
  | "verdict";

export interface Key {
  scope: Scope;
  id: string;
  /** What is pressed: a key by what it writes or is called, with Alt, Shift or Ctrl before it. */
  presses: readonly string[];
  /** How the list of keys shows it. */
  shown: string;
  does: string;
}

/** All keys of the bench. Whoever handles a key looks it up here, and the list of keys is made from it. */
export const keyTable = [
  { scope: "message", id: "send", presses: ["Enter"], shown: "Enter", does: "sends the message" },
  { scope: "message", id: "break", presses: ["Shift+Enter"], shown: "Shift + Enter", does: "breaks the line" },
  {
    scope: "message",
    id: "older",
    presses: ["ArrowUp"],
    shown: "↑",
    does: "recalls what was sent, where nothing is written",
  },
  { scope: "message", id: "newer", presses: ["ArrowDown"], shown: "↓", does: "goes back to what was sent later" },
  {
    scope: "bench",
    id: "close",
    presses: ["Escape"],
    shown: "Esc",
    does: "closes what the focus is in, stops the reply, or closes what was opened last",
  },
  {
    scope: "build",
    id: "station",
    presses: ["Alt+1", "Alt+2", "Alt+3", "Alt+4", "Alt+5", "Alt+6"],
    shown: "Alt + 1 to Alt + 6",
    does: "open the stations",
  },
  { scope: "build", id: "new", presses: ["Alt+N"], shown: "Alt + N", does: "begins a new conversation" },
  { scope: "build", id: "take", presses: ["Alt+A"], shown: "Alt + A", does: "asks for another take of the last reply" },
  {
    scope: "build",
    id: "again",
    presses: ["Alt+G"],
    shown: "Alt + G",
    does: "says the conversation again on the draft",
  },
  {
    scope: "build",
    id: "above",
    presses: ["Alt+ArrowUp"],
    shown: "Alt + ↑",
    does: "goes to the place above where takes or lines part",
  },
  {
    scope: "build",
    id: "below",
    presses: ["Alt+ArrowDown"],
    shown: "Alt + ↓",
    does: "goes to the place below where takes or lines part",
  },
  { scope: "compare", id: "new", presses: ["Alt+N"], shown: "Alt + N", does: "in Compare, begins a new comparison" },
  {
    scope: "compare",
    id: "lane",
    presses: ["Alt+1", "Alt+2", "Alt+3", "Alt+4", "Alt+5", "Alt+6"],
    shown: "Alt + 1 to Alt + 6",
    does: "in Compare, open the candidates",
  },
  {
    scope: "build",
    id: "check",
    presses: ["Alt+K"],
    shown: "Alt + K",
    does: "makes a check of the conversation",
  },
  {
    scope: "reading",
    id: "check",
    presses: ["Alt+K"],
    shown: "Alt + K",
    does: "does so of the one that is read in History",
  },
  { scope: "checks", id: "run", presses: ["Alt+R"], shown: "Alt + R", does: "in Checks, runs them" },
  { scope: "checks", id: "edit", presses: ["Alt+E"], shown: "Alt + E", does: "in Checks, edits the script" },
  {
    scope: "script",
    id: "one",
    presses: ["Alt+Enter"],
    shown: "Alt + Enter",
    does: "in a script, runs the check that the cursor is in",
  },
  { scope: "fact", id: "right", presses: ["R"], shown: "R", does: "on a fact, marks it as right, or takes that back" },
  { scope: "fact", id: "wrong", presses: ["W"], shown: "W", does: "on a fact, marks it as wrong, or takes that back" },
  {
    scope: "verdict",
    id: "meets",
    presses: ["Y"],
    shown: "Y",
    does: "on a reply that is judged by hand, says that it meets the rubric",
  },
  { scope: "verdict", id: "misses", presses: ["N"], shown: "N", does: "there, says that it misses it" },
  { scope: "set", id: "ask", presses: ["Alt+Enter"], shown: "Alt + Enter", does: "in a set of messages, asks it" },
  {
    scope: "answer",
    id: "move",
    presses: ["ArrowUp", "ArrowDown", "ArrowLeft", "ArrowRight"],
    shown: "↑ ↓ ← →",
    does: "in the table of a set, go from answer to answer",
  },
  {
    scope: "answer",
    id: "good",
    presses: ["G"],
    shown: "G",
    does: "there, marks the answer as good, or takes that back",
  },
  { scope: "answer", id: "bad", presses: ["B"], shown: "B", does: "there, marks it as bad, or takes that back" },
  { scope: "answer", id: "whole", presses: ["Enter"], shown: "Enter", does: "there, unfolds the row, or folds it" },
  {
    scope: "choice",
    id: "number",
    presses: ["0", "1", "2", "3", "4", "5", "6", "7", "8", "9"],
    shown: "0 to 9",
    does: "there, choose one by its number, of two digits too",
  },
  { scope: "value", id: "keep", presses: ["Enter"], shown: "Enter", does: "in a sentence, has a value take effect" },
  { scope: "value", id: "drop", presses: ["Escape"], shown: "Esc", does: "in a sentence, drops what was typed" },
  { scope: "history", id: "find", presses: ["/"], shown: "/", does: "finds conversations by words" },
  { scope: "build", id: "find", presses: ["/"], shown: "/", does: "finds conversations by words, in History" },
  { scope: "compare", id: "find", presses: ["/"], shown: "/", does: "does so in Compare, too" },
  { scope: "checks", id: "find", presses: ["/"], shown: "/", does: "does so in Checks, too" },
  { scope: "bench", id: "list", presses: ["?"], shown: "?", does: "shows this list" },
] as const satisfies readonly Key[];

export type KeyOf<S extends Scope> = Extract<(typeof keyTable)[number], { scope: S }>["id"];

/** What of a key that was pressed is looked at. */
export type Pressed = Pick<KeyboardEvent, "key" | "code" | "altKey" | "ctrlKey" | "metaKey" | "shiftKey"> &
  Partial<Pick<KeyboardEvent, "getModifierState">>;

/** Which key of a scope was pressed, and which of its presses that was; undefined for none of them. */
export function keyIn<S extends Scope>(scope: S, pressed: Pressed): { id: KeyOf<S>; at: number } | undefined {
  for (const key of keyTable) {
    if (key.scope !== scope) continue;
    const at = key.presses.findIndex((press) => isPress(press, pressed));
    if (at >= 0) return { id: key.id as KeyOf<S>, at };
  }
  return undefined;
}

/**
 * Whether that was pressed. What writes a sign is known by the sign, on every layout and with whatever Shift it takes
 * there; a letter or digit beside Alt also by its place, since Alt makes other signs of it on some systems.
 */
function isPress(press: string, pressed: Pressed): boolean {
  const modifiers = press.split("+");
  const key = modifiers.pop() ?? "";
  const wants = (name: string) => modifiers.includes(name);
  const isSign = key.length === 1 && !/[\p{L}\p{N}]/u.test(key);
  if (isSign) {
    const writes = pressed.getModifierState?.("AltGraph") ?? false;
    return pressed.key === key && !pressed.metaKey && (writes || (!pressed.ctrlKey && !pressed.altKey));
  }
  if (pressed.ctrlKey || pressed.metaKey || pressed.altKey !== wants("Alt")) return false;
  if (key.length === 1) return isKey(key, pressed, wants("Alt"));
  return pressed.key === key && pressed.shiftKey === wants("Shift");
}

function isKey(key: string, pressed: Pressed, besideAlt: boolean): boolean {
  if (pressed.key.toUpperCase() === key) return true;
  if (!besideAlt || /^[A-Za-z0-9]$/.test(pressed.key)) return false;
  return pressed.code === `Key${key}` || pressed.code === `Digit${key}` || pressed.code === `Numpad${key}`;
}
