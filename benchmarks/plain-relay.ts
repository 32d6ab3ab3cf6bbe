import { Agent, createServer, request as httpRequest } from "node:http";
import { createParser } from "eventsource-parser";
import { documentsIn, shapes } from "./shapes";

/**
 * What the product is held against: a server that parses each event of the source and writes it
 * out again, with nothing else. Listens on the first port and relays what the second one answers.
 */
const [port, source] = process.argv.slice(2).map(Number);
const agent = new Agent({ keepAlive: true });

interface Document {
  choices?: { delta: { content?: string } }[];
  sofar?: string;
  parts?: { words: string }[];
  line?: string;
}

const server = createServer((incoming, outgoing) => {
  const shape = shapes[incoming.url?.split("/")[1] ?? ""] ?? shapes["chat-completions"];
  const upstream = httpRequest(
    { port: source, host: "127.0.0.1", method: "POST", path: incoming.url, agent },
    (answer) => {
      outgoing.writeHead(200, { "content-type": "text/event-stream" });
      let id = 0;
      let heard = 0;
      const relay = (data: string) => {
        if (data === "[DONE]") return;
        const { choices, sofar, parts, line } = JSON.parse(data) as Document;
        const text = choices?.[0]?.delta.content ?? sofar?.slice(heard) ?? parts?.[0]?.words ?? line;
        if (sofar !== undefined) heard = sofar.length;
        if (text) outgoing.write(`id: ${++id}\nevent: text\ndata: ${JSON.stringify({ text })}\n\n`);
      };
      const utf8 = new TextDecoder();
      const parser = createParser({ onEvent: ({ data }) => relay(data) });
      let rest = "";
      answer.on("data", (chunk) => {
        const text = utf8.decode(chunk, { stream: true });
        if (shape?.contentType === "text/event-stream") return parser.feed(text);
        if (!shape) return;
        const found = documentsIn(shape, rest + text);
        rest = found.rest;
        for (const data of found.documents) relay(data);
      });
      answer.on("end", () => outgoing.end());
    },
  );
  incoming.pipe(upstream);
});
server.keepAliveTimeout = 120_000;
server.listen(port, "127.0.0.1");
