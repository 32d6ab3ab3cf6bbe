import { type Piece, pictureTypes, piecesOf } from "../../conversation/pieces";
import { encode, type WireCall } from "../encode";
import { fileMark } from "../files";
import { parseJson } from "../json";
import type { PastedRequest } from "../pasted/pasted";
import { pathTo } from "../path";
import { compileProfile, ProfileError } from "../profile";
import type { WrittenProfile } from "../profile-schema";
import type { Steps } from "./finding";
import type { PastedPicture } from "./messages";

/** What a pasted request says, to be said again by the proposal. */
export interface PastedCall {
  call: Omit<WireCall, "messages">;
  system: string[];
  turns: { role: "visitor" | "app"; text: string; picture?: PastedPicture }[];
}

/**
 * Makes the pasted request again from a proposal, and says where it differs; undefined where it is the same: the path, the
 * query, the headers and every member of the body in its order.
 */
export function differenceOf(
  profile: WrittenProfile,
  pasted: PastedRequest,
  { call, system, turns }: PastedCall,
): string | undefined {
  const messages = [
    ...system.map((text) => ({ role: "system" as const, pieces: piecesOf(text) })),
    ...turns.map(({ role, text, picture }, at) => ({ role, pieces: piecesIn(text, picture, at) })),
  ];
  try {
    const made = encode(compileProfile(profile), { ...call, messages });
    const path = pathOf(pasted.url);
    if (path !== undefined && normalPath(made.path) !== normalPath(path))
      return `the path is ${made.path} and not ${path}`;
    if (profile.request.bodyAs === "form") {
      const [own, other] = [pasted.body, made.body ?? ""].map((body) => new URLSearchParams(body).toString());
      return own === other ? undefined : "the form is another";
    }
    const body = turns.reduce(
      (before, { picture }, at) => (picture ? before.replaceAll(fileMark(hashAt(at)), picture.bytes) : before),
      made.body ?? "null",
    );
    const difference = differenceAt(parseJson(pasted.body), parseJson(body), []);
    return difference && `at ${pathTo(difference)}`;
  } catch (error) {
    if (error instanceof ProfileError) return error.message;
    throw error;
  }
}

/** What a message of the pasted request holds; a picture is known by the place of its message. */
function piecesIn(text: string, picture: PastedPicture | undefined, at: number): Piece[] {
  if (!picture) return piecesOf(text);
  const type = pictureTypes.find((each) => each === picture.type) ?? "image/png";
  const seen: Piece = { kind: "picture", file: hashAt(at), type, width: 1, height: 1 };
  return picture.isBefore ? [seen, ...piecesOf(text)] : [...piecesOf(text), seen];
}

function hashAt(place: number): string {
  return String(place).padStart(64, "0");
}

function pathOf(url: string): string | undefined {
  return /^https?:\/\/[^/?#]*([^#]*)/.exec(url)?.[1];
}

/** A path with its query, each part decoded, so that two ways to write one thing are one. */
function normalPath(path: string): string {
  const [start = "", query = ""] = path.split("?");
  const plain = (text: string) => {
    try {
      return decodeURIComponent(text.replaceAll("+", " "));
    } catch {
      return text;
    }
  };
  return `${plain(start) || "/"}?${query.split("&").map(plain).join("&")}`;
}

/** The first place at which two documents differ; undefined where there is none. */
function differenceAt(a: unknown, b: unknown, steps: Steps): Steps | undefined {
  if (typeof a !== "object" || a === null || typeof b !== "object" || b === null) return a === b ? undefined : steps;
  const [left, right] = [Object.keys(a), Object.keys(b)];
  const name = (key: string) => (Array.isArray(a) ? Number(key) : key);
  for (const [place, key] of left.entries()) {
    if (right[place] !== key) return [...steps, name(key)];
    const inner = differenceAt((a as Record<string, unknown>)[key], (b as Record<string, unknown>)[key], [
      ...steps,
      name(key),
    ]);
    if (inner) return inner;
  }
  const further = right[left.length];
  return further === undefined ? undefined : [...steps, name(further)];
}
