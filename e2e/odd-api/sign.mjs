// signs a finished request, as it comes on the input, for the odd API
import { createHmac } from "node:crypto";

let text = "";
for await (const part of process.stdin) text += part;
const { url, body } = JSON.parse(text);
const { pathname } = new URL(url);
console.log(
  `x-oyster-sign: ${createHmac("sha256", "pebble")
    .update(pathname + body)
    .digest("hex")}`,
);
