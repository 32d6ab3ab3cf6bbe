import { json } from "@/server/http/problem-response";
import { route } from "@/server/http/route";
import { version } from "../../../../package.json";

export const { GET, HEAD, POST, PUT, PATCH, DELETE, OPTIONS } = route({ GET: () => json({ ok: true, version }) });
