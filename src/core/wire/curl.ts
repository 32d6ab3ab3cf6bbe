import { hiddenKey, type WireRequest } from "./encode";

/** A request as a curl command, with its secrets as environment variables: the key by a name, others by their own. */
export function asCurl(
  { method, url, headers, body }: Omit<WireRequest, "path"> & { url: string },
  variable: string,
): string {
  const parts = [
    `curl -N${method === "POST" ? "" : ` -X ${method}`} ${quoted(url, variable)}`,
    ...Object.entries(headers).map(([name, value]) => `-H ${quoted(`${name}: ${value}`, variable)}`),
    ...(body ? [`--data-raw ${quoted(body, variable)}`] : []),
  ];
  return parts.join(" \\\n  ");
}

/** A word for the shell: in single quotes, or in double ones where the key stands in it. */
function quoted(text: string, variable: string): string {
  if (!text.includes("•")) return `'${text.replaceAll("'", "'\\''")}'`;
  const escaped = text.replace(/["\\`$]/g, "\\$&").replaceAll(hiddenKey, `$${variable}`);
  return `"${escaped.replace(/•([\w.-]+)•/g, (_mark, name: string) => `$${name.toUpperCase().replace(/\W/g, "_")}`)}"`;
}
