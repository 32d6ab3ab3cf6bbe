import type { benchFiles, files } from "@/contract/files";
import { largestPicture } from "@/core/pictures/picture";
import { picturesRefused } from "@/core/serving/sent";
import type { HasLimits } from "../entrance/limits";
import { takeFromLimits } from "../entrance/rate";
import type { HasUploads } from "../entrance/upload-store";
import type { HasVisitors } from "../entrance/visitor-store";
import type { HasFiles, StoredFile } from "../files/file-store";
import { judgedPicture } from "../files/picture";
import { Refusal, refuse } from "../ground/refusal";
import type { HasSigner } from "../security/secret";
import { newVisitorHeaders } from "./replies";
import { Answered, bodyBytes, type Handle } from "./serve";

/** What of the process is used here. */
export type FilesNeeds = HasFiles & HasUploads & HasVisitors & HasLimits & HasSigner;

/** Keeps a picture of a caller, under an id of the caller's own. */
export const keepFile: Handle<typeof files.keep, FilesNeeds> = async (home, { caller, request }) => {
  if (caller.publicToken !== undefined)
    refuse("unknown-caller", "A public token only opens visitors, and keeps nothing itself.");
  const { access } = caller.app;
  const refused = picturesRefused(access, caller.seen.origin === "page" ? "page" : "calls", 1);
  if (refused) throw new Refusal(refused);
  const now = Date.now();
  takeFromLimits(home, caller, now);
  const kept = await keptFrom(home, request, access.pictures.largest, now);
  const visitor = caller.visitor ?? home.visitors.add(caller.app.id, caller.fresh, now);
  const headers = caller.visitor === undefined ? newVisitorHeaders(home, caller, visitor) : {};
  return new Answered(201, { ...shown(kept), file: home.uploads.idFor(visitor, kept.hash, now) }, headers);
};

/** Gives a caller one of its pictures. */
export const readFile: Handle<typeof files.read, FilesNeeds> = (home, { caller, id }) => {
  const hash = caller.visitor === undefined ? undefined : home.uploads.hashOf(caller.visitor, id);
  return bytesOf(home, hash, id);
};

/** Keeps a picture of the bench. */
export const keepBenchFile: Handle<typeof benchFiles.keep, HasFiles> = async (home, { request }) =>
  shown(await keptFrom(home, request, largestPicture, Date.now()));

/** Gives the bench a picture. */
export const readBenchFile: Handle<typeof benchFiles.read, HasFiles> = (home, { hash }) => bytesOf(home, hash, hash);

async function keptFrom({ files }: HasFiles, request: Request, largest: number, now: number): Promise<StoredFile> {
  return files.keep(judgedPicture(await bodyBytes(request, largest), largest), now);
}

function shown({ hash, type, width, height }: StoredFile) {
  return { file: hash, type, width, height };
}

/** The bytes of a picture, which nothing but a picture can be made of. @throws {Refusal} `not-found` */
async function bytesOf({ files }: HasFiles, hash: string | undefined, id: string): Promise<Response> {
  const file = hash === undefined ? undefined : files.find(hash);
  if (!file) refuse("not-found", `There is no picture ${id}.`);
  return new Response(new Uint8Array(await files.read(file)), {
    headers: {
      "content-type": file.type,
      "content-length": String(file.size),
      "cache-control": "private, max-age=31536000, immutable",
      "content-security-policy": "default-src 'none'; sandbox",
      "x-content-type-options": "nosniff",
    },
  });
}
