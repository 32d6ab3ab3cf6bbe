import { addressOf, headersOf, type SampleBody, type SampleCall } from "./call";

/** A program for a page, as a module or in its console; it keeps which visitor it is, without a cookie. */
export function browserSample(call: SampleCall): string {
  const show = "document.body.append(data.text)";
  const showWhole = "document.body.append(JSON.stringify(answer, null, 2))";
  if (call.with === "site") return program(call, literal(headersOf(call), 2), show, showWhole);
  const { authorization: _token, "finch-visitor": _name, ...headers } = headersOf(call);
  const opened = `${keeping}if (!pass) {
  const opened = await fetch(${JSON.stringify(`${call.app}/visitors`)}, {
    method: "POST",
    headers: ${literal({ authorization: `Bearer ${call.token}`, "content-type": "application/json" }, 4)},
    body: "{}",
  });
  if (!opened.ok) throw new Error(await opened.text());
  ({ pass } = await opened.json());
  localStorage.setItem("finch pass", pass);
}
`;
  const before = call.with === "public" ? opened : keeping;
  const shown = `{ ...(pass ? { authorization: "Bearer " + pass } : {}), ...${literal(headers, 2)} }`;
  const after = call.with === "public" ? dropping : taking;
  return before + program(call, shown, show, showWhole, after);
}

const taking = `const given = response.headers.get("finch-pass");
if (given) localStorage.setItem("finch pass", given);
`;
const dropping = `if (response.status === 401) localStorage.removeItem("finch pass");
`;
const keeping = `let pass = localStorage.getItem("finch pass");
`;

/** A program for Node 20 or later, as a file that ends in .mjs. */
export function nodeSample(call: SampleCall): string {
  return program(call, literal(headersOf(call), 2), "process.stdout.write(data.text)", "console.log(answer)");
}

function program(call: SampleCall, headers: string, show: string, showWhole: string, given = ""): string {
  const asked = `const response = await fetch(${JSON.stringify(addressOf(call))}, {
  method: "POST",
  headers: ${headers},
  body: JSON.stringify(${literal(call.body, 2)}),
});
${given}`;
  const whole = `const answer = await response.json();
${showWhole};
`;
  if (call.way === "whole") return asked + whole;
  if (call.way === "stream") return `${asked}${read("response", show)}`;
  return `${asked}${whole}if (answer.events) {
${indented(`const later = await fetch(answer.events, { headers: { accept: "text/event-stream" } });
${read("later", show)}`)}}
`;
}

/** What reads a stream of events, however it is cut on its way. */
function read(response: string, show: string): string {
  return `if (!${response}.ok) throw new Error(await ${response}.text());
let rest = "";
for await (const part of ${response}.body.pipeThrough(new TextDecoderStream())) {
  const blocks = (rest + part).split("\\n\\n");
  rest = blocks.pop();
  for (const block of blocks) {
    const [, event] = /^event: (.*)$/m.exec(block) ?? [];
    const [, json] = /^data: (.*)$/m.exec(block) ?? [];
    if (!json) continue;
    const data = JSON.parse(json);
    if (event === "text") ${show};
    if (event === "problem") throw new Error(data.detail);
  }
}
`;
}

function literal(value: SampleBody, depth: number): string {
  const members = Object.entries(value).map(
    ([name, member]) =>
      `${/^\w+$/.test(name) ? name : JSON.stringify(name)}: ${typeof member === "string" ? JSON.stringify(member) : literal(member, depth + 2)}`,
  );
  const line = `{ ${members.join(", ")} }`;
  const space = " ".repeat(depth);
  return line.length < 70 ? line : `{\n${members.map((each) => `${space}  ${each},`).join("\n")}\n${space}}`;
}

function indented(code: string): string {
  return code.replace(/^(?=.)/gm, "  ");
}
