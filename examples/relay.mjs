// A relay between a page and the app: the page knows only this server, which keeps the token and says who calls.
//   FINCH_TOKEN=finch_server_… node relay.mjs      then open http://127.0.0.1:5175
// Its job is to hold nothing back. Each line that sees to that says what goes wrong without it.
import { randomUUID } from "node:crypto";
import { request as ask, createServer } from "node:http";

const app = new URL(process.env.FINCH_APP ?? "http://127.0.0.1:4600/api/apps/quay-desk");
const token = process.env.FINCH_TOKEN;

createServer((request, response) => {
  if (request.method === "GET" && request.url === "/") return sendPage(response, visitorOf(request));
  // only what this page needs: a relay that passes on any path opens all that is behind it
  if (request.method !== "POST" || request.url !== "/say") return response.writeHead(404).end();
  const visitor = visitorOf(request);
  const upstream = ask(
    `${app}/replies`,
    {
      method: "POST",
      headers: {
        "content-type": "application/json",
        accept: "text/event-stream",
        // without it the answer may come compressed, and whatever compresses gathers before it writes
        "accept-encoding": "identity",
        "finch-client": "relay",
        "finch-visitor": visitor,
        ...(token ? { authorization: `Bearer ${token}` } : {}),
      },
    },
    (answer) => {
      response.writeHead(answer.statusCode, {
        // without the type the browser's reader does not see a stream
        "content-type": answer.headers["content-type"],
        // without no-transform a proxy on the way may compress, and so gather
        "cache-control": "no-store, no-transform",
        // without it some proxies gather the answer before they pass it on
        "x-accel-buffering": "no",
      });
      // without it the headers wait for the first text, and the page does not know that it was heard
      response.flushHeaders();
      // without it small parts wait in the system until the one before them was acknowledged
      response.socket.setNoDelay(true);
      // part by part: `await answer.text()` here would give all of it at the end
      answer.pipe(response);
      // without it a stream that broke off looks like one that ended well
      answer.on("error", () => response.destroy());
    },
  );
  // without it a page that has left keeps a connection to the app open; the reply itself goes on, and can be read later
  response.on("close", () => upstream.destroy());
  // without it an app that is down takes the relay with it
  upstream.on("error", () => {
    if (response.headersSent) response.destroy();
    else response.writeHead(502, { "content-type": "application/json" }).end('{"detail":"The app does not answer."}');
  });
  request.pipe(upstream);
}).listen(Number(process.env.PORT ?? 5175), "127.0.0.1");

function visitorOf(request) {
  return /(?:^|; )relay_visitor=([\w-]+)/.exec(request.headers.cookie ?? "")?.[1] ?? randomUUID();
}

function sendPage(response, visitor) {
  response.writeHead(200, {
    "content-type": "text/html; charset=utf-8",
    "set-cookie": `relay_visitor=${visitor}; Path=/; HttpOnly; SameSite=Lax`,
  });
  response.end(page);
}

const page = `<!doctype html><html lang="en"><meta charset="utf-8"><title>Quay Desk</title>
<h1>Quay Desk</h1><p id="reply" aria-live="polite"></p>
<form><input name="message" aria-label="Message" autofocus> <button>Send</button></form>
<script type="module">
  let conversation;
  const reply = document.querySelector("#reply");
  document.forms[0].addEventListener("submit", async (event) => {
    event.preventDefault();
    const message = event.target.message.value;
    reply.textContent = "…";
    const response = await fetch("/say", { method: "POST", body: JSON.stringify({ message, conversation }) });
    if (!response.ok) return (reply.textContent = (await response.json()).detail);
    reply.textContent = "";
    let rest = "";
    for (const reader = response.body.pipeThrough(new TextDecoderStream()).getReader(); ; ) {
      const { value, done } = await reader.read();
      if (done) break;
      const blocks = (rest + value).split("\\n\\n");
      rest = blocks.pop();
      for (const block of blocks) {
        const [, name] = /^event: (.*)$/m.exec(block) ?? [];
        const [, json] = /^data: (.*)$/m.exec(block) ?? [];
        if (!json) continue;
        const data = JSON.parse(json);
        if (name === "reply") conversation = data.conversation;
        if (name === "text") reply.append(data.text);
        if (name === "problem") reply.append(data.detail);
      }
    }
  });
</script></html>`;
