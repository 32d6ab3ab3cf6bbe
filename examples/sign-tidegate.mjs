// Signs a request for Tidegate's sealed model. The bench gives the finished request on the input, as
// {"method", "url", "headers", "body"}; what is printed goes out as headers.
import { createHmac } from "node:crypto";

let text = "";
for await (const part of process.stdin) text += part;
const { url, body } = JSON.parse(text);
const key = new URL(url).searchParams.get("pass") ?? "";
console.log(`tide-seal: ${createHmac("sha256", key).update(body).digest("hex")}`);
