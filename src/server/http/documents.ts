import type { documents, OwnDocument } from "@/contract/documents";
import { cutOf } from "@/core/sources/sources";
import type { HasApps, StoredApp } from "../apps/app-store";
import type { HasErasing } from "../database/erasing";
import type { Caller } from "../entrance/caller";
import type { HasLimits } from "../entrance/limits";
import { takeFromLimits } from "../entrance/rate";
import { refuse } from "../ground/refusal";
import { type ReadingNeeds, wantReading } from "../jobs/reading-job";
import type { HasRunner } from "../jobs/runner";
import type { HasSigner } from "../security/secret";
import type { VisitorDocument } from "../sources/visitor-document-store";
import { checkHanding, type Handing, handInAddress, handInFile, standingOf } from "../sources/visitor-documents";
import { type ForgettingNeeds, forgetDocument } from "../tending/deleting";
import { newVisitorHeaders } from "./replies";
import { Answered, bodyBytes, type Handle } from "./serve";

/** What of the process is used here. */
export type OwnDocumentsNeeds = ReadingNeeds & HasRunner & HasApps & HasLimits & HasSigner & ForgettingNeeds;

/** Milliseconds that whoever forgets something waits until it is gone from every byte. */
const patience = 10_000;

/** Keeps a file of a caller as a document of its own, and has it read. */
export const handInOwnFile: Handle<typeof documents.handIn, OwnDocumentsNeeds> = async (
  home,
  { caller, name, request },
) => {
  const by = handingOf(home, caller);
  checkHanding(home, by, { kind: "file", name });
  takeFromLimits(home, caller, Date.now());
  const bytes = await bodyBytes(request, caller.app.access.documents.largest);
  return handed(home, caller, handInFile(home, by, name, bytes, Date.now()));
};

/** Keeps what stands at an address as a document of a caller's own, and has it read. */
export const handInOwnAddress: Handle<typeof documents.handInAddress, OwnDocumentsNeeds> = async (
  home,
  { caller, body: { url } },
) => {
  const by = handingOf(home, caller);
  checkHanding(home, by, { kind: "address", url });
  takeFromLimits(home, caller, Date.now());
  return handed(home, caller, await handInAddress(home, by, url));
};

/** Lists a caller's own documents. */
export const listOwn: Handle<typeof documents.list, OwnDocumentsNeeds> = (home, { caller }) => ({
  documents: ownOf(home, caller).map((document) => toldOf(home, caller.app, document)),
});

/** Forgets one of them. */
export const forgetOwn: Handle<typeof documents.forget, OwnDocumentsNeeds> = async (home, { caller, id }) => {
  const document = ownOf(home, caller).find((each) => each.id === id);
  if (!document) refuse("not-found", `There is no document ${id} of yours.`);
  await forgetDocument(home, document);
  return new Answered((await isErased(home)) ? 204 : 202, undefined);
};

/** Waits a while until what was deleted is gone from every byte; false where that takes longer. */
export async function isErased({ erasing }: HasErasing): Promise<boolean> {
  const waits = new AbortController();
  const tooLong = new Promise<false>((resolve) => {
    const timer = setTimeout(() => resolve(false), patience);
    waits.signal.addEventListener("abort", () => clearTimeout(timer));
  });
  const isGone = await Promise.race([erasing.start().then(() => true), tooLong]);
  waits.abort();
  return isGone;
}

function handingOf({ visitors }: OwnDocumentsNeeds, { app, seen, visitor, fresh, publicToken }: Caller): Handing {
  if (publicToken !== undefined)
    refuse("unknown-caller", "A public token only opens visitors, and hands in nothing itself.");
  return {
    app,
    from: seen.origin === "page" ? "page" : "calls",
    visitor,
    begin: () => visitors.add(app.id, fresh, Date.now()),
  };
}

function ownOf({ visitorDocuments }: OwnDocumentsNeeds, { visitor }: Caller): VisitorDocument[] {
  return visitor === undefined ? [] : visitorDocuments.ofVisitor(visitor);
}

function handed(home: OwnDocumentsNeeds, caller: Caller, document: VisitorDocument): Answered<OwnDocument> {
  // it may have been changed or deleted while the document came
  const app = home.apps.byId(caller.app.id) ?? refuse("not-found", `${caller.app.name} was deleted.`);
  wantReading(home, app);
  const headers = caller.visitor === undefined ? newVisitorHeaders(home, caller, document.visitor) : {};
  return new Answered(201, toldOf(home, app, document), headers);
}

function toldOf(home: OwnDocumentsNeeds, app: StoredApp, document: VisitorDocument): OwnDocument {
  const { id, title, hash } = document;
  const cut = cutOf(home.apps.revision(app.id, app.liveRevision)?.content.sources);
  return {
    document: id,
    title,
    size: home.documents.find(hash)?.size ?? 0,
    ...standingOf(home, document, () => home.passages.cutting({ hash, ...cut })?.isWhole === true),
    conversations: home.visitorDocuments.foundIn(id).length,
  };
}
