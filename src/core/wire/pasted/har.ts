import { z } from "zod";
import type { PastedRequest } from "./pasted";

const pair = z.object({ name: z.string(), value: z.string() });

/** A request as HTTP Archive 1.2 has it, as far as it is read (http://www.softwareishard.com/blog/har-12-spec/#request). */
const requestSchema = z.object({
  method: z.string(),
  url: z.string(),
  headers: z.array(pair).default([]),
  postData: z
    .object({ text: z.string().optional(), params: z.array(pair.partial({ value: true })).optional() })
    .optional(),
});
const entrySchema = z.object({ request: requestSchema });
const archiveSchema = z.object({ log: z.object({ entries: z.array(entrySchema) }) });

/** Headers that a browser adds to every call, which no API asks for. */
const browsers =
  /^(?::.*|host|connection|content-length|user-agent|origin|referer|dnt|priority|pragma|cache-control|accept-(?:encoding|language)|sec-.*|te)$/i;

/** The request of an archive, of an entry of one, or by itself; undefined where a document is none of these. Of several calls the last that sends something counts. */
export function harRequest(document: unknown): PastedRequest | undefined {
  const archive = archiveSchema.safeParse(document);
  if (archive.success) {
    const requests = archive.data.log.entries.map(({ request }) => request);
    const chosen = requests.findLast(({ postData }) => postData !== undefined) ?? requests.at(-1);
    const notes =
      requests.length > 1
        ? [`The archive holds ${requests.length} calls: the last that sends something was read.`]
        : [];
    return chosen && pasted(chosen, notes);
  }
  const entry = entrySchema.safeParse(document);
  if (entry.success) return pasted(entry.data.request, []);
  const request = requestSchema.safeParse(document);
  return request.success && /^https?:/.test(request.data.url) ? pasted(request.data, []) : undefined;
}

function pasted({ method, url, headers, postData }: z.infer<typeof requestSchema>, notes: string[]): PastedRequest {
  const form = new URLSearchParams(postData?.params?.map(({ name, value = "" }): [string, string] => [name, value]));
  return {
    method: method.toUpperCase(),
    url,
    headers: withoutBrowsers(headers.map(({ name, value }): [string, string] => [name, value])),
    body: postData?.text ?? form.toString(),
    notes,
  };
}

/** Headers without those that a browser adds to every call. */
export function withoutBrowsers(headers: readonly [string, string][]): [string, string][] {
  return headers.filter(([name]) => !browsers.test(name));
}
