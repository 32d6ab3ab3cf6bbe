import { join } from "node:path";
import Sqlite from "better-sqlite3";
import { type Piece, toolsIn } from "@/core/conversation/pieces";
import { askingTwice, Desk } from "@/server/test/desk";
import type { World } from "../e2e/world";
import { Caller, readAll } from "./caller";
import type { Tally } from "./tally";

/** Replies that ask tools when the server is killed. */
const asking = 4;

/**
 * Kills the server while tools are called, again and again: each call that a tool got was written before, none is made
 * twice, and of each without an answer it is said that nobody knows.
 */
export async function killsInTools(world: World, tally: Tally, rounds: number): Promise<void> {
  const desk = await Desk.start();
  const { answer } = desk;
  desk.answer = async (path, body) => {
    await new Promise((resolve) => setTimeout(resolve, Math.random() * 120));
    return answer(path, body);
  };
  try {
    await world.pace("instant");
    const slug = await world.makeApp("Killed in tools", { model: "reed-deep", tools: desk.tools() });
    for (let round = 0; round < rounds; round += 1) {
      // a reader may be cut off before it hears anything
      const readers = Promise.allSettled(
        Array.from({ length: asking }, async () => {
          const response = await new Caller(world, slug).ask({ message: askingTwice }, { accept: "text/event-stream" });
          return readAll(response);
        }),
      );
      await new Promise((resolve) => setTimeout(resolve, 50 + Math.random() * 400));
      await world.killWeb();
      await readers;
      await world.startWeb();
      tally.count("kills while tools are called");
    }
    const pieces = storedPieces(world);
    const outcomes = pieces.flatMap((each) => toolsIn({ pieces: each }).map(({ outcome }) => outcome));
    tally.count("calls that were asked for", outcomes.length);
    tally.count("calls that a tool got", desk.asked.length);
    tally.count("calls of which nobody knows", outcomes.filter((outcome) => outcome === "unknown").length);
    tally.expects(!outcomes.includes("waiting"), "a call still waits for its answer");
    tally.expects(
      desk.asked.length <= outcomes.length,
      `a tool got ${desk.asked.length} calls, and ${outcomes.length} are written`,
    );
    for (const each of pieces) {
      const asked = toolsIn({ pieces: each }).map(({ name, arguments: given }) => `${name} ${JSON.stringify(given)}`);
      tally.expects(new Set(asked).size === asked.length, `a call was made twice: ${asked.join(", ")}`);
    }
  } finally {
    desk.stop();
  }
}

/** The pieces of each reply of the app that asked tools. */
function storedPieces(world: World): Piece[][] {
  const database = new Sqlite(join(world.folder, "finch.sqlite"), { readonly: true });
  try {
    const found = database
      .prepare<[], string>("SELECT pieces FROM messages WHERE role = 'app' AND instr(pieces, '\"kind\":\"tool\"')")
      .pluck();
    return found.all().map((pieces) => JSON.parse(pieces) as Piece[]);
  } finally {
    database.close();
  }
}
