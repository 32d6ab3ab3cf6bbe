import Sqlite from "better-sqlite3";
import type { ProblemExtras } from "@/contract/problem";
import type { Problem } from "@/core/problem/problem";
import { isRefusal, Refusal } from "../ground/refusal";

/**
 * An error as it goes from one thread to another. What is copied between threads loses its class and all that it says
 * beside its message, by which a full disk is told from a mistake.
 */
export interface CarriedError {
  name: string;
  message: string;
  stack?: string;
  /** Codes of SQLite or of the system, and what the system was doing. */
  code?: string;
  syscall?: string;
  path?: string;
  refused?: { problem: Problem; extras: ProblemExtras };
}

/** What is carried of an error. */
export function carried(error: unknown): CarriedError {
  if (!(error instanceof Error)) return { name: "Error", message: String(error) };
  const { name, message, stack } = error;
  const { code, syscall, path } = error as NodeJS.ErrnoException;
  const refused = isRefusal(error) ? { problem: error.problem, extras: error.extras } : undefined;
  return { name, message, stack, code: code === undefined ? undefined : String(code), syscall, path, refused };
}

/** The error that was carried, of its class, with its words and its stack. */
export function errorFrom({ name, message, stack, refused, ...of }: CarriedError): Error {
  const error = refused
    ? new Refusal(refused.problem, refused.extras)
    : name === "SqliteError"
      ? new Sqlite.SqliteError(message, of.code ?? "")
      : Object.assign(new Error(message), { name }, given(of));
  error.stack = stack ?? error.stack;
  return error;
}

function given(of: object): object {
  return Object.fromEntries(Object.entries(of).filter(([, value]) => value !== undefined));
}
