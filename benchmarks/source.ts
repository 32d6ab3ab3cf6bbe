import { createServer } from "node:http";

/**
 * A pre-rendered stream of chat completions, one event a write. The model's name says how much:
 * `r100n500` is 500 events of text at 100 a second. Listens on the port that it is given.
 */
const text = "The boat to Tansy Holm leaves at 9:40 and takes thirty-five minutes. ";
const event = (delta: object, finish: string | null) =>
  `data: ${JSON.stringify({ id: "b1", choices: [{ index: 0, delta, finish_reason: finish }] })}\n\n`;
const events = Array.from(text.matchAll(/\S+ /g), ([word]) => event({ content: word }, null));
const ending = `${event({}, "stop")}data: {"choices":[],"usage":{"prompt_tokens":40,"completion_tokens":400}}\n\ndata: [DONE]\n\n`;

const server = createServer((request, response) => {
  let body = "";
  request.on("data", (chunk) => {
    body += chunk;
  });
  request.on("end", () => {
    const [, rate = "100", count = "100"] = /"model":"r(\d+)n(\d+)"/.exec(body) ?? [];
    response.writeHead(200, { "content-type": "text/event-stream" });
    const started = performance.now();
    let sent = 0;
    const write = () => {
      const due = Math.min(Math.floor(((performance.now() - started) / 1000) * Number(rate)) + 1, Number(count));
      for (; sent < due; sent++) response.write(events[sent % events.length]);
      if (sent < Number(count)) return;
      clearInterval(timer);
      response.end(ending);
    };
    const timer = setInterval(write, 1000 / Number(rate));
    response.on("close", () => clearInterval(timer));
    write();
  });
});
server.keepAliveTimeout = 120_000;
server.listen(Number(process.argv[2]), "127.0.0.1");
