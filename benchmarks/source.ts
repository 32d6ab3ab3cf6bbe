import { createServer } from "node:http";
import { eventsOf, type Matter, shapes } from "./shapes";

/**
 * Pre-rendered streams, one event a write. The beginning of the path says the shape and the model's
 * name how much: `r100n500` is 500 events of text at 100 a second, `r100n500-table` the same as one
 * table. Listens on the port that it is given.
 */
const rendered = new Map<string, string[]>();

const server = createServer((request, response) => {
  let body = "";
  request.on("data", (chunk) => {
    body += chunk;
  });
  request.on("end", () => {
    const name = request.url?.split("/")[1] ?? "";
    const shape = shapes[name] ?? shapes["chat-completions"];
    if (!shape) return response.destroy();
    const [, rate = "100", count = "100", matter] = /\br(\d+)n(\d+)(?:-(\w+))?\b/.exec(`${request.url} ${body}`) ?? [];
    const key = `${name} ${count} ${matter}`;
    const events = rendered.get(key) ?? eventsOf(shape, Number(count), matter as Matter | undefined);
    rendered.set(key, events);
    response.writeHead(200, { "content-type": shape.contentType });
    if (shape.opening) response.write(shape.opening);
    const started = performance.now();
    let sent = 0;
    const write = () => {
      const due = Math.min(Math.floor(((performance.now() - started) / 1000) * Number(rate)) + 1, events.length);
      for (; sent < due; sent++) response.write(events[sent]);
      if (sent < events.length) return;
      clearInterval(timer);
      response.end(shape.ending);
    };
    const timer = setInterval(write, 1000 / Number(rate));
    response.on("close", () => clearInterval(timer));
    write();
  });
});
server.keepAliveTimeout = 120_000;
server.listen(Number(process.argv[2]), "127.0.0.1");
