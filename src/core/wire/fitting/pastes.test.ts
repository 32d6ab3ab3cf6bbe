import { describe, expect, it } from "vitest";
import { type Fitting, fit } from "./fit";

const key = "zk-abcdefghijklmnop1234567890";
const document = {
  model: "reed-9",
  messages: [
    { role: "system", content: "Be brief." },
    { role: "user", content: "Hi" },
    { role: "assistant", content: "Hello" },
    { role: "user", content: "Which quay?" },
  ],
  stream: true,
};
const body = JSON.stringify(document);
const url = "https://any.test/v1/say";
const type = "application/json";
const command = `curl ${url} -H 'content-type: ${type}' -H 'authorization: Bearer ${key}' -d '${body}'`;

const data = (each: string | object) => `data: ${typeof each === "string" ? each : JSON.stringify(each)}\n\n`;
const piece = (content: string) => ({ choices: [{ index: 0, delta: { content }, finish_reason: null }] });
const last = { choices: [{ index: 0, delta: {}, finish_reason: "stop" }] };
const events = [piece("Mill"), piece(" Quay."), last, "[DONE]"];
const stream = events.map(data).join("");
const whole = JSON.stringify({ choices: [{ message: { content: "Mill Quay." }, finish_reason: "stop" }] });
const chunked = [...events.map(data), ""].map((each) => `${each.length.toString(16)}\r\n${each}\r\n`).join("");

/** The proposal, as far as a paste may not change it. */
function proposalOf(request: string, answer: string) {
  const result = fit({ request, answer });
  if (result.kind === "none") throw new Error(result.why);
  const { provider, profile, questions, reading, findings }: Fitting = result.fitting;
  return {
    address: provider.address,
    model: provider.model,
    key: provider.credential.kind,
    body: profile.request.body,
    path: profile.request.path,
    questions,
    text: reading.map((each) => (each.event === "text" ? each.data.text : "")).join(""),
    end: reading.at(-1)?.event,
    doubts: findings.filter(({ certainty }) => certainty === "likely").map(({ what }) => what),
    isLeaked: JSON.stringify(result).includes(key),
  };
}

const requests: [how: string, pasted: string][] = [
  ["a prompt before it", `$ ${command}`],
  ["a prompt with a name and a host", `me@shore:~/ferry$ ${command}`],
  ["the prompt of another shell", `PS C:\\ferry> ${command.replace("curl ", "curl.exe ")}`],
  ["the fence of a code block", `\`\`\`bash\n${command}\n\`\`\``],
  ["typographic quotes", command.replace(/'/g, () => "’")],
  ["a mark of the byte order", `\uFEFF${command}`],
  ["comments around it", `# ask the desk\n${command}\n# done`],
  [
    "a variable set before",
    `export KEY=${key}\n${command.replace(`'authorization: Bearer ${key}'`, '"authorization: Bearer $KEY"')}`,
  ],
  ["what reads the answer", `${command} | jq -r '.choices[0]'`],
  ["a file for the answer", `${command} > answer.json 2>&1`],
  ["a place for the key", command.replace(key, "YOUR_API_KEY")],
  ["a place in braces for the key", command.replace(key, "{{api_key}}")],
  [
    "a raw request",
    `POST /v1/say HTTP/1.1\nHost: any.test\nAuthorization: Bearer ${key}\nContent-Type: ${type}\n\n${body}`,
  ],
  ["a file of requests", `POST ${url}\nAuthorization: Bearer ${key}\nContent-Type: ${type}\n\n${body}`],
  [
    "wget",
    `wget -qO- ${url} --header='content-type: ${type}' --header='authorization: Bearer ${key}' --post-data='${body}'`,
  ],
  [
    "the shell with a backtick, as a browser copies it",
    `Invoke-WebRequest -UseBasicParsing -Uri "${url}" \`\n-Method "POST" \`\n-Headers @{\n"authority"="any.test"\n  "authorization"="Bearer ${key}"\n} \`\n-ContentType "${type}" \`\n-Body "${body.replaceAll('"', '`"')}"`,
  ],
  [
    "a program with named arguments",
    `import os, requests\n\nheaders = {\n    "Authorization": f"Bearer {os.environ['ANY_KEY']}",  # ours\n}\npayload = ${body.replaceAll("true", "True")}\nanswer = requests.post("${url}", headers=headers, json=payload, stream=True)\nprint(answer.text)`,
  ],
  [
    "a program with a key in it",
    `API_KEY = '${key}'\nr = httpx.stream("POST", '${url}', headers={'authorization': 'Bearer ' + API_KEY}, content=json.dumps(${body.replaceAll("true", "True")}))`,
  ],
  [
    "a call with its body first",
    `const { data } = await client.post("${url}", ${body}, { headers: { Authorization: \`Bearer \${process.env.ANY_KEY}\` } });`,
  ],
  [
    "a call with one object",
    `axios({ method: "post", url: "${url}", data: ${body}, headers: { Authorization: "Bearer ${key}" } })`,
  ],
  [
    "a body that was set before",
    `const sent = ${body};\nconst answer = await fetch("${url}", {\n  method: "POST",\n  headers: { Authorization: "Bearer ${key}" },\n  body: JSON.stringify(sent),\n});`,
  ],
];

const answers: [how: string, pasted: string][] = [
  ["the fence of a code block", `\`\`\`\n${stream}\`\`\``],
  ["the fence of a code block, whole", `\`\`\`json\n${whole}\n\`\`\``],
  ["lines drawn out", JSON.stringify(JSON.parse(whole), null, 2)],
  [
    "the meter of curl",
    `  % Total    % Received % Xferd  Average Speed   Time    Time     Time  Current\n                                 Dload  Upload   Total   Spent    Left  Speed\n100   123  100   123    0     0   1234      0 --:--:-- --:--:-- --:--:--  1234\n${whole}`,
  ],
  [
    "the sizes of its chunks",
    `HTTP/1.1 200 OK\r\nContent-Type: text/event-stream\r\nTransfer-Encoding: chunked\r\n\r\n${chunked}`,
  ],
  ["no empty lines", stream.replaceAll("\n\n", "\n")],
  ["a moment before each line", stream.replace(/^(?=.)/gm, "2026-11-29T10:00:00.123Z ")],
  [
    "the rows of a table",
    events.map((each) => `message\t${typeof each === "string" ? each : JSON.stringify(each)}\t12:30:01.123`).join("\n"),
  ],
  ["one text of JSON", JSON.stringify(stream)],
  ["the data alone", events.map((each) => (typeof each === "string" ? each : JSON.stringify(each))).join("\n")],
  [
    "what curl says beside it",
    `* Connected to any.test\n> POST /v1/say HTTP/1.1\n> authorization: Bearer ${key}\n> \n< HTTP/1.1 200 OK\n< Content-Type: text/event-stream\n< \n${stream}* Connection #0 left intact\n`,
  ],
];

describe("a request is the same, however it was copied", () => {
  const plain = proposalOf(command, stream);

  it("is fitted whole as a plain command", () => {
    expect(plain).toMatchObject({
      address: "https://any.test",
      model: "reed-9",
      key: "key",
      text: "Mill Quay.",
      end: "end",
    });
    expect(plain).toMatchObject({ doubts: [], questions: [], isLeaked: false });
  });

  it.each(requests)("with %s", (_how, pasted) => {
    expect(proposalOf(pasted, stream)).toEqual(plain);
  });
});

describe("an answer is the same, however it was copied", () => {
  it.each(answers)("with %s", (_how, pasted) => {
    expect(proposalOf(command, pasted)).toMatchObject({ text: "Mill Quay.", end: "end", doubts: [], isLeaked: false });
  });
});

describe("what is pasted, however long", () => {
  it.each([
    ["comments", "#\n".repeat(5_000)],
    ["signs of prompts", "$  ".repeat(5_000)],
    ["variables", "A=1 ".repeat(5_000)],
    ["names before a host", "me@host ".repeat(5_000)],
  ])("is gone through once: %s before what is no command", (_what, many) => {
    expect(fit({ request: `${many}http POST x`, answer: whole }).kind).toBe("none");
  });

  it.each([
    ["blank lines", `${data(piece("Mill Quay."))}${data(last)}${"\n".repeat(200_000)}`],
    ["one line after a head that no empty line ends", `HTTP/1.1 200 OK\n${"a".repeat(500_000)}`],
    ["words of the letters of base64", `${"A".repeat(999)} `.repeat(500)],
  ])("is gone through once: an answer with %s", (_what, answer) => {
    expect(fit({ request: command, answer }).kind).toBe("fitted");
  });
});

describe("what is no call that can be read", () => {
  it.each([
    ["http POST https://any.test/v1/say model=reed-9", "neither a curl command"],
    ["wget --post-file=body.json https://any.test/v1/say", "stands in the file body.json"],
    ["client.post()", "no call with an address"],
    ["requests.post(URL, json=[1, 2", "expected"],
    [`fetch(${"[".repeat(500)}`, "nested too deep"],
    ["Invoke-RestMethod -Method Post", "holds no address"],
  ])("%s is named", (pasted, why) => {
    expect(fit({ request: pasted, answer: whole })).toEqual({ kind: "none", why: expect.stringContaining(why) });
  });
});
