import { Agent, createServer, request as httpRequest } from "node:http";
import { createParser } from "eventsource-parser";

/**
 * What the product is held against: a server that parses each event of the source and writes it
 * out again, with nothing else. Listens on the first port and relays what the second one answers.
 */
const [port, source] = process.argv.slice(2).map(Number);
const agent = new Agent({ keepAlive: true });

const server = createServer((incoming, outgoing) => {
  const upstream = httpRequest(
    { port: source, host: "127.0.0.1", method: "POST", path: incoming.url, agent },
    (answer) => {
      outgoing.writeHead(200, { "content-type": "text/event-stream" });
      let id = 0;
      const parser = createParser({
        onEvent({ data }) {
          if (data === "[DONE]") return;
          const { choices } = JSON.parse(data);
          const content = choices[0]?.delta.content;
          if (content) outgoing.write(`id: ${++id}\nevent: text\ndata: ${JSON.stringify({ text: content })}\n\n`);
        },
      });
      const utf8 = new TextDecoder();
      answer.on("data", (chunk) => parser.feed(utf8.decode(chunk, { stream: true })));
      answer.on("end", () => outgoing.end());
    },
  );
  incoming.pipe(upstream);
});
server.keepAliveTimeout = 120_000;
server.listen(port, "127.0.0.1");
