// A Node program that talks with an app, and keeps nothing but the conversation's id:
//   node ask.mjs "I'm Ivo, with two bicycles" "How many bicycles do I have?"
// FINCH_APP is the address of the app, FINCH_TOKEN a server token where the app wants one.

const app = process.env.FINCH_APP ?? "http://127.0.0.1:4600/api/apps/quay-desk";
const token = process.env.FINCH_TOKEN;
const identity = {
  // on the app's own machine a name is enough; from elsewhere a server token goes with it
  "finch-visitor": "ivo",
  "finch-client": "ask.mjs",
  ...(token ? { authorization: `Bearer ${token}` } : {}),
};

let conversation;
for (const message of process.argv.slice(2)) {
  const response = await fetch(`${app}/replies`, {
    method: "POST",
    headers: { "content-type": "application/json", accept: "application/x-ndjson", ...identity },
    body: JSON.stringify({ message, conversation }),
  });
  if (!response.ok) {
    // every refusal is a problem document: what happened, and what to do
    const { detail, advice } = await response.json();
    console.error(`${detail} ${advice}`);
    process.exit(1);
  }
  for await (const { event, data } of linesOf(response)) {
    if (event === "reply") conversation = data.conversation;
    if (event === "text") process.stdout.write(data.text);
    if (event === "problem") {
      console.error(`\n${data.detail} ${data.advice}`);
      process.exit(1);
    }
  }
  console.log();
}

/** The events of an answer. A part of the body may end anywhere, also in the middle of a character or a line. */
async function* linesOf(response) {
  let rest = "";
  for await (const part of response.body.pipeThrough(new TextDecoderStream())) {
    const lines = (rest + part).split("\n");
    rest = lines.pop();
    for (const line of lines) if (line) yield JSON.parse(line);
  }
}
