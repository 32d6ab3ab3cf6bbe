import { z } from "zod";
import { pictureTypes } from "@/core/conversation/pieces";
import { largestPicture } from "@/core/pictures/picture";
import { bytes, call, json } from "./call";
import { callerProblems } from "./replies";

/** A picture that was kept: name it by `file` in a piece of a message. */
const keptSchema = z
  .object({
    file: z.string(),
    type: z.enum(pictureTypes),
    /** Pixels. */
    width: z.int(),
    height: z.int(),
  })
  .meta({ id: "KeptPicture" });

const takes = { types: pictureTypes, largest: largestPicture };

/** Pictures that callers of an app hand in, each under an id that only they know. */
export const files = {
  keep: call({
    method: "POST",
    path: "/api/apps/{slug}/files",
    by: "visitor",
    does: "Keeps a picture, to be sent with a message; one that no message holds within a day is deleted.",
    takes,
    answers: { 201: json(keptSchema) },
    problems: [...callerProblems, "not-found"],
  }),
  read: call({
    method: "GET",
    path: "/api/apps/{slug}/files/{id}",
    by: "visitor",
    does: "Gives a picture that the caller kept, or that stands in one of its conversations.",
    answers: { 200: bytes(pictureTypes) },
    problems: ["not-found", "unknown-caller"],
  }),
};

/** Pictures at the bench, which knows them by the hash of their bytes. */
export const benchFiles = {
  keep: call({
    method: "POST",
    path: "/api/bench/files",
    by: "bench",
    does: "Keeps a picture, to be sent with a message.",
    takes,
    answers: { 201: json(keptSchema) },
  }),
  read: call({
    method: "GET",
    path: "/api/bench/files/{hash}",
    by: "bench",
    does: "Gives a picture.",
    answers: { 200: bytes(pictureTypes) },
    problems: ["not-found"],
  }),
};
