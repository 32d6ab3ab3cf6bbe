import { headersOf, type SampleCall } from "./call";

/** The same for a page, as a module or in its console. */
export function browserSample(call: SampleCall): string {
  return program(call, "document.body.append(data.text)", "document.body.append(JSON.stringify(answer, null, 2))");
}

/** The same for Node 20 or later, as a file that ends in .mjs. */
export function nodeSample(call: SampleCall): string {
  return program(call, "process.stdout.write(data.text)", "console.log(answer)");
}

function program(call: SampleCall, show: string, showWhole: string): string {
  const asked = `const response = await fetch(${JSON.stringify(call.url)}, {
  method: "POST",
  headers: ${literal(headersOf(call), 2)},
  body: JSON.stringify(${literal(call.body, 2)}),
});
`;
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

function literal(value: Record<string, string>, depth: number): string {
  const members = Object.entries(value).map(
    ([name, text]) => `${/^\w+$/.test(name) ? name : JSON.stringify(name)}: ${JSON.stringify(text)}`,
  );
  const line = `{ ${members.join(", ")} }`;
  const space = " ".repeat(depth);
  return line.length < 70 ? line : `{\n${members.map((each) => `${space}  ${each},`).join("\n")}\n${space}}`;
}

function indented(code: string): string {
  return code.replace(/^(?=.)/gm, "  ");
}
