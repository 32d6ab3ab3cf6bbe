import { describe, expect, it } from "vitest";
import { HistoryLines } from "./reading";

/** What is said of each line, from the first on. */
function read(...lines: unknown[]) {
  const history = new HistoryLines();
  const said = lines.map((value, at) => {
    const taken = history.take(value, at + 1);
    return taken.ok
      ? `${taken.placed.begins ? "new " : ""}${taken.placed.message} after ${taken.placed.after}`
      : taken.why;
  });
  return [...said, ...history.unanswered().map(({ line, why }) => `line ${line}: ${why}`)];
}

const visitor = (text: string, more: object = {}) => ({ role: "visitor", text, ...more });
const app = (text: string, more: object = {}) => ({ role: "app", text, ...more });

describe("the lines of a history", () => {
  it("need a role and a text alone, and take turns in one conversation", () => {
    expect(
      read(visitor("Hello"), app("Good day"), { role: "user", text: "And?" }, { role: "assistant", text: "No." }),
    ).toEqual(["new 1 after null", "2 after 1", "3 after 2", "4 after 3"]);
  });

  it("may name conversations and the messages that they come after", () => {
    expect(
      read(
        visitor("a", { conversation: "x", message: 1, after: null }),
        app("b", { conversation: "x" }),
        app("c", { conversation: "x", after: 1 }),
        visitor("d", { conversation: "x", after: 2 }),
        app("e", { conversation: "x", after: 4 }),
        visitor("f", { conversation: 7 }),
        app("g"),
      ),
    ).toEqual([
      "new 1 after null",
      "2 after 1",
      "3 after 1",
      "4 after 2",
      "5 after 4",
      "new 1 after null",
      "2 after 1",
    ]);
  });

  it.each([
    [[app("a")], "a conversation begins with the visitor"],
    [[visitor("a"), visitor("b")], "it follows another message of the visitor"],
    [[visitor("a"), app("b"), app("c")], "it follows another reply"],
    [[visitor("a"), app("b", { after: 4 })], "it comes after message 4, which is not there yet"],
    [[visitor("a"), app("b", { pin: true })], "a turn is pinned by the message of the visitor"],
    [[visitor("a", { clear: true })], "a line is cleared after a reply"],
    [
      Array.from({ length: 51 }, () => [visitor("a", { pin: true }), app("b")])
        .flat()
        .slice(0, -1),
      "50 turns of its conversation are pinned already",
    ],
    [[visitor("a", { message: 2 })], "it is message 1 of its conversation, and says 2"],
    [
      [
        visitor("a", { conversation: 1 }),
        app("b"),
        visitor("c", { conversation: 2 }),
        app("d"),
        visitor("e", { conversation: 1 }),
      ],
      "conversation 1 goes on here, and another one stands between",
    ],
    [[visitor(" ")], "the visitor says nothing"],
    [[visitor("a"), app("")], "the reply says nothing"],
    [[visitor("a"), app("b", { continues: 1 })], "it goes on from message 1, which is no reply before it"],
    [[visitor("a", { colour: "red" })], "there is no member colour"],
    [[{ role: "captain", text: "a" }], expect.stringContaining("role:")],
    [["text"], expect.stringContaining("the line:")],
    [[visitor("a", { at: "yesterday" })], expect.stringContaining("at:")],
  ])("%j does not fit: %s", (lines, why) => {
    expect(read(...lines)[lines.length - 1]).toEqual(why);
  });

  it("must not end with a question", () => {
    expect(read(visitor("a"), app("b"), visitor("c"))).toContain("line 3: nothing answers this message");
  });
});
