// A front end that works without JavaScript in the browser: each message is a form, each answer a page.
//   node no-script.mjs      then open http://127.0.0.1:5174
// It keeps nothing: the conversation's id travels in the form, and who is talking in a cookie.
// FINCH_APP is the address of the app, FINCH_TOKEN a server token where the app wants one, PORT where this listens.
import { randomUUID } from "node:crypto";
import { createServer } from "node:http";

const app = process.env.FINCH_APP ?? "http://127.0.0.1:4600/api/apps/quay-desk";
const token = process.env.FINCH_TOKEN;

createServer(async (request, response) => {
  const visitor = /(?:^|; )desk_visitor=([\w-]+)/.exec(request.headers.cookie ?? "")?.[1] ?? randomUUID();
  const fields = request.method === "POST" ? new URLSearchParams(await textOf(request)) : new URLSearchParams();
  const { conversation, failure } = await say(visitor, fields.get("message") ?? "", fields.get("conversation") ?? "");
  const messages = conversation ? await messagesOf(visitor, conversation) : [];
  response.writeHead(200, {
    "content-type": "text/html; charset=utf-8",
    "set-cookie": `desk_visitor=${visitor}; Path=/; HttpOnly; SameSite=Lax`,
    // nothing here is a script, and nothing that a model writes becomes one
    "content-security-policy": "default-src 'none'; style-src 'unsafe-inline'; form-action 'self'",
  });
  response.end(page(messages, conversation, failure));
}).listen(Number(process.env.PORT ?? 5174), "127.0.0.1");

/** Says something and waits for the whole answer; gives the conversation that it stands in. */
async function say(visitor, message, conversation) {
  if (message.trim() === "") return { conversation };
  const response = await call(visitor, "replies", {
    method: "POST",
    body: JSON.stringify(conversation ? { message, conversation } : { message }),
  });
  const answer = await response.json();
  // a reply that failed is in its conversation as well, so what was said is not lost
  return response.ok ? answer : { conversation, failure: `${answer.detail} ${answer.advice}` };
}

async function messagesOf(visitor, conversation) {
  const response = await call(visitor, `conversations/${encodeURIComponent(conversation)}`);
  return response.ok ? (await response.json()).messages : [];
}

function call(visitor, path, init = {}) {
  const headers = { "content-type": "application/json", "finch-client": "no-script", "finch-visitor": visitor };
  if (token) headers.authorization = `Bearer ${token}`;
  return fetch(`${app}/${path}`, { ...init, headers });
}

function page(messages, conversation = "", failure = "") {
  const rows = messages.map(
    ({ role, pieces }) => `<p class="${role}">${escaped(pieces.map(({ text }) => text).join(""))}</p>`,
  );
  return `<!doctype html><html lang="en"><meta charset="utf-8"><title>Quay Desk</title>
<style>body { max-width: 40rem; margin: 2rem auto; font: 1rem/1.5 sans-serif } p { white-space: pre-wrap } .visitor { color: #1f5c6b }</style>
<h1>Quay Desk</h1>${rows.join("")}${failure ? `<p role="alert">${escaped(failure)}</p>` : ""}
<form method="post"><input type="hidden" name="conversation" value="${escaped(conversation)}">
<input name="message" aria-label="Message" autofocus> <button>Send</button></form></html>`;
}

function escaped(text) {
  return text.replace(/[&<>"']/g, (mark) => `&#${mark.charCodeAt(0)};`);
}

async function textOf(request) {
  let text = "";
  for await (const part of request) {
    text += part;
    if (text.length > 100_000) throw new Error("too long");
  }
  return text;
}
