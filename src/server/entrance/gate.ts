import { randomBytes, timingSafeEqual } from "node:crypto";
import { type Problem, problem } from "@/core/problem/problem";
import type { Signer } from "../security/secret";

/** What stands at the two ports, before any route: who comes in at the bench, and what there is of pages and apps. */

const cookieName = "finch_bench";
const enter = "/enter/";
const signed = "the bench";
const month = 30 * 24 * 60 * 60;

/** What is served where only pages and apps are: no route of the bench. */
const talks = [
  /^\/talk\/[^/]+(?:\/preview)?$/,
  /^\/talk\/module\.(?:js|d\.ts)$/,
  /^\/api\/apps\/[^/]+\/./,
  /^\/api\/health$/,
  /^\/_next\/static\//,
  /^\/icon\.svg$/,
];

/** Why a path is not answered at the port of pages and apps, if it is not. @param path as it came, without its query */
export function refusedAtTalk(path: string): Problem | undefined {
  // an escape of what parts a path, or leads up in it, is none that a name needs
  const isPlain = !/%(?:2e|2f|5c|25|00)|\\|\/\/|\/\.{1,2}(?:\/|$)/i.test(path);
  if (isPlain && talks.some((pattern) => pattern.test(path))) return undefined;
  return problem("not-found", `There is nothing at ${path}.`);
}

/** What opens the bench where more than this machine is listened to: a link that works once, and then a cookie. */
export class BenchKey {
  private key: string | undefined = randomBytes(24).toString("base64url");

  constructor(private readonly signer: Signer) {}

  /** The path of the one-time link. */
  get path(): string {
    return `${enter}${this.key ?? ""}`;
  }

  /** The header that lets a browser in from here on; undefined where a path is not the link, or was used. */
  cookieFor(path: string): string | undefined {
    const [given, own] = [Buffer.from(path), Buffer.from(this.path)];
    if (!this.key || given.length !== own.length || !timingSafeEqual(given, own)) return undefined;
    this.key = undefined;
    const value = encodeURIComponent(this.signer.sign(signed));
    return `${cookieName}=${value}; Path=/; Max-Age=${month}; HttpOnly; SameSite=Strict`;
  }

  /** Why a call may not come in, if it may not. @param cookies the header of that name */
  refused(path: string, cookies: string | undefined): Problem | undefined {
    if (path === "/api/health") return undefined;
    const all = (cookies ?? "").split(/;\s*/);
    const isIn = all.some((cookie) => {
      const value = cookie.startsWith(`${cookieName}=`) ? cookie.slice(cookieName.length + 1) : "";
      return this.signer.open(value.replace(/%3D/gi, "=").replace(/%20/g, " ")) === signed;
    });
    if (isIn) return undefined;
    return problem("forbidden", "The bench is open only to who came in by its link.", {
      advice: "Open the link that was printed at the start; it works once. Start anew for another one.",
    });
  }
}
