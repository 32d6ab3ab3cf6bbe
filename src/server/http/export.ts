import type { exports } from "@/contract/exports";
import { appAt } from "../apps/app";
import type { HasApps } from "../apps/app-store";
import type { ExportForm } from "../archive/export";
import type { HasReader } from "../archive/threads";
import type { Handle } from "./serve";

const forms: Record<ExportForm, { type: string; ending: string }> = {
  jsonl: { type: "application/x-ndjson; charset=utf-8", ending: "jsonl" },
  markdown: { type: "text/markdown; charset=utf-8", ending: "md" },
  csv: { type: "text/csv; charset=utf-8", ending: "csv" },
};

/** Gives a history as a file: each part is read when there is room for it. */
export const exportHistory: Handle<typeof exports.history, HasApps & HasReader> = async (
  home,
  { slug, as, ids, request, ...filter },
) => {
  const app = appAt(home, slug);
  const key = await home.reader.call("beginExport", { app: app.id, form: as, filter, ids: ids?.split(",") });
  const { type, ending } = forms[as];
  const day = new Date().toISOString().slice(0, 10);
  return new Response(partsOf(home, key), {
    headers: {
      "content-type": type,
      "content-disposition": `attachment; filename="${slug}-${day}.${ending}"`,
      "cache-control": "no-store, no-transform",
      "x-content-type-options": "nosniff",
    },
  });
};

function partsOf({ reader }: HasReader, key: number): ReadableStream<Uint8Array> {
  const utf8 = new TextEncoder();
  return new ReadableStream({
    async pull(controller) {
      const part = await reader.call("nextOfExport", { key });
      if (part === null) controller.close();
      else controller.enqueue(utf8.encode(part));
    },
    cancel: () => reader.call("endExport", { key }),
  });
}
