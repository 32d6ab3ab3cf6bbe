import { percentEncoded } from "../json";
import { type Option, optionsIn } from "./curl-options";
import { NotARequest, type PastedRequest } from "./pasted";
import { shellCommand } from "./shell";

/** What is put together from the options of a command. */
interface Draft extends Required<Omit<PastedRequest, "user">> {
  user?: string;
  /** What goes in the body, joined by `&`; the parts of `--json` are joined by nothing. */
  data: string[];
  json: string[];
  query: string[];
  isGet: boolean;
  isHead: boolean;
  /** What the command is given on its input. */
  input?: string;
  /** Headers that curl sends by itself and the command takes out. */
  without: Set<string>;
}

/** Reads a command that begins with `curl`, by its manual. @throws {NotARequest} */
export function curlRequest(text: string): PastedRequest {
  const { words, input, notes } = shellCommand(text);
  const draft: Draft = {
    method: "",
    url: "",
    headers: [],
    body: "",
    notes,
    data: [],
    json: [],
    query: [],
    isGet: false,
    isHead: false,
    input,
    without: new Set(),
  };
  for (const option of optionsIn(words.slice(1))) {
    if (option.name === "next") {
      notes.push("The command makes several calls (--next): the first was read.");
      break;
    }
    take(option, draft);
  }
  return finished(draft);
}

/** Options by their long names, and what each does to the request. */
const takers: Record<string, (draft: Draft, value: string) => void> = {
  "": (draft, value) => {
    if (draft.url === "") draft.url = value;
    else if (value.trim() !== "") draft.notes.push(`A further address was left out: ${value}`);
  },
  url: (draft, value) => takers[""]?.(draft, value),
  request: (draft, value) => {
    draft.method = value.toUpperCase();
  },
  get: (draft) => {
    draft.isGet = true;
  },
  head: (draft) => {
    draft.isHead = true;
  },
  header: takeHeader,
  user: (draft, value) => {
    draft.user = value;
  },
  "oauth2-bearer": (draft, value) => draft.headers.push(["authorization", `Bearer ${value}`]),
  cookie: (draft, value) => {
    if (value.includes("=")) draft.headers.push(["cookie", value]);
    else draft.notes.push(`The cookies of the file ${value} were left out.`);
  },
  data: (draft, value) => draft.data.push(fromFile(draft, value)),
  "data-ascii": (draft, value) => takers.data?.(draft, value),
  "data-binary": (draft, value) => draft.data.push(fromFile(draft, value)),
  "data-raw": (draft, value) => draft.data.push(value),
  "data-urlencode": (draft, value) => draft.data.push(encodedPair(value)),
  json: (draft, value) => draft.json.push(fromFile(draft, value)),
  "url-query": (draft, value) => draft.query.push(value.startsWith("+") ? value.slice(1) : encodedPair(value)),
  form: needNoParts,
  "form-string": needNoParts,
  "upload-file": (_draft, value) => {
    throw new NotARequest(`The body stands in the file ${value}: paste it as --data-raw '…'.`);
  },
  config: (_draft, value) => {
    throw new NotARequest(`Options stand in the file ${value} (-K): paste them into the command.`);
  },
  "aws-sigv4": (draft, value) =>
    draft.notes.push(`The call is signed by curl (--aws-sigv4 ${value}): a command of yours has to sign it.`),
  netrc: (draft) => draft.notes.push("The name and the password stand in a file of curl's (--netrc): give them here."),
  proxy: (draft) => draft.notes.push("The proxy was left out: it is set beside the address."),
  cacert: (draft) => draft.notes.push("The certificate file was left out: it is set beside the address."),
  cert: (draft) => draft.notes.push("The certificate of a client was left out: no provider is called with one."),
};

function take({ name, value = "" }: Option, draft: Draft): void {
  if (Object.hasOwn(takers, name)) takers[name]?.(draft, value);
}

function takeHeader(draft: Draft, value: string): void {
  if (value.startsWith("@"))
    throw new NotARequest(`Headers stand in the file ${value.slice(1)}: paste them, each with a -H of its own.`);
  const [, name, sign, rest = ""] = /^\s*([^:;\s]+)\s*([:;])([\s\S]*)$/.exec(value) ?? [];
  if (name === undefined) return;
  // a header without a value takes out one that curl would send, and one behind a semicolon is sent empty
  if (sign === ":" && rest.trim() === "") draft.without.add(name.toLowerCase());
  else draft.headers.push([name, rest.trim()]);
}

function needNoParts(_draft: Draft, value: string): void {
  throw new NotARequest(
    `The command sends a form of parts (-F ${value.slice(0, 40)}), and a wire profile writes JSON, text and plain forms.`,
  );
}

/** What `@` names: the input of the command, where a heredoc gives it. @throws {NotARequest} for a file */
function fromFile({ input }: Draft, value: string): string {
  if (!value.startsWith("@")) return value;
  if (value === "@-" && input !== undefined) return input;
  throw new NotARequest(
    value === "@-"
      ? "The body comes from another command (@-): paste it in place of @-."
      : `The body stands in the file ${value.slice(1)}: paste it in place of ${value}.`,
  );
}

/** `content`, `=content` or `name=content`, of which the content is encoded. @throws {NotARequest} for a file */
function encodedPair(value: string): string {
  const [, name = "", content = value] = /^([^=@]*)=([\s\S]*)$/.exec(value) ?? [];
  const [, , file] = /^([^=@]*)@(.*)$/.exec(value) ?? [];
  if (file !== undefined && !value.includes("="))
    throw new NotARequest(`What is sent stands in the file ${file}: paste it in place of ${value}.`);
  const encoded = percentEncoded(content).replaceAll("%24", "$").replaceAll("%E2%80%A2", "•");
  return name === "" ? encoded : `${name}=${encoded}`;
}

function finished(draft: Draft): PastedRequest {
  const { notes, isGet, isHead } = draft;
  if (draft.url === "") throw new NotARequest("The command holds no address.");
  // what stands in a variable has its scheme there
  let url = /^(?:https?:\/\/|\$)/i.test(draft.url) ? draft.url : `http://${draft.url}`;
  const json = draft.json.join("");
  let body = [...draft.data, ...(json === "" ? [] : [json])].join("&");
  const query = [...draft.query, ...(isGet && body !== "" ? [body] : [])].join("&");
  if (isGet) body = "";
  if (query !== "") url = withQuery(url, query);
  const named = new Set(draft.headers.map(([name]) => name.toLowerCase()));
  const isTyped = named.has("content-type") || draft.without.has("content-type");
  const added: [string, string][] = json === "" || isTyped ? [] : [["content-type", "application/json"]];
  const method = draft.method || (isHead ? "HEAD" : body === "" ? "GET" : "POST");
  return { method, url, headers: [...draft.headers, ...added], body, user: draft.user, notes };
}

function withQuery(url: string, query: string): string {
  const [, start = url, hash = ""] = /^([^#]*)(#.*)?$/s.exec(url) ?? [];
  return `${start}${start.includes("?") ? "&" : "?"}${query}${hash}`;
}
