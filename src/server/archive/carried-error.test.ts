import { readFileSync } from "node:fs";
import Sqlite from "better-sqlite3";
import { expect, it } from "vitest";
import { problem } from "@/core/problem/problem";
import { storageProblem } from "../database/storage";
import { isRefusal, Refusal } from "../ground/refusal";
import { carried, errorFrom } from "./carried-error";

/** An error as it comes out at another thread. */
const across = (error: unknown) => errorFrom(structuredClone(carried(error)));

it("an error of a thread keeps its class, its words and where it came from", () => {
  const full = new Sqlite.SqliteError("database or disk is full", "SQLITE_FULL");
  const came = across(full);
  expect(came).toBeInstanceOf(Sqlite.SqliteError);
  expect([came.message, came.stack]).toEqual([full.message, full.stack]);
  expect(storageProblem(came)?.detail).toContain("the disk is full");
});

it("an error of the system keeps its code, and a refusal its problem", () => {
  const missing = (() => {
    try {
      return readFileSync("/nowhere/at/all");
    } catch (error) {
      return error;
    }
  })();
  expect(across(missing)).toMatchObject({ code: "ENOENT", syscall: "open", path: "/nowhere/at/all" });
  const refused = across(new Refusal(problem("not-found", "It is gone.")));
  expect(isRefusal(refused) && refused.problem).toMatchObject({ kind: "not-found", detail: "It is gone." });
  expect(across("a text").message).toBe("a text");
});
