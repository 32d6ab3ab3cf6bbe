import { type NextRequest, NextResponse } from "next/server";
import { isShared, refusedAt } from "@/server/entrance/origin";
import { openHome } from "@/server/home";
import { errorsAt, problemResponse } from "@/server/http/problem-response";

/**
 * Stands before every route: refuses hosts and origins that are not ours, and gives pages a
 * Content-Security-Policy with a nonce for this answer alone.
 */
export function proxy(request: NextRequest): Response {
  const { pathname } = request.nextUrl;
  const refused = refusedAt(pathname, request.headers);
  if (refused) return problemResponse(refused, {}, errorsAt(pathname));
  if (pathname.startsWith("/api/")) return NextResponse.next();
  const nonce = btoa(crypto.randomUUID());
  const policy = policyWith(nonce, framersOf(pathname), isShared(pathname));
  const headers = new Headers(request.headers);
  headers.set("x-nonce", nonce);
  headers.set("content-security-policy", policy);
  const response = NextResponse.next({ request: { headers } });
  response.headers.set("content-security-policy", policy);
  response.headers.set("x-content-type-options", "nosniff");
  response.headers.set("referrer-policy", "no-referrer");
  return response;
}

/** Who may show a page in a frame: nobody; for the page of an app, the bench and the origins that its app allows. */
function framersOf(path: string): string {
  const [, first, slug = ""] = path.split("/");
  const app = first === "talk" ? openHome()?.apps.bySlug(slug) : undefined;
  if (!app) return "'none'";
  const bench = process.env.FINCH_TALK_PORT ? ` http://*:${process.env.FINCH_PORT ?? 4600}` : "";
  return [`'self'${bench}`, ...app.access.origins].join(" ");
}

/** @param isStrict whether a script needs to be ours by its address or its nonce, whoever put it into the page */
function policyWith(nonce: string, framers: string, isStrict: boolean): string {
  const forDevelopment = process.env.NODE_ENV === "development" ? " 'unsafe-eval'" : "";
  return [
    "default-src 'self'",
    `script-src 'self' 'nonce-${nonce}'${isStrict ? "" : " 'strict-dynamic'"}${forDevelopment}`,
    `style-src 'self' 'nonce-${nonce}'`,
    "style-src-attr 'unsafe-inline'",
    // pictures that are fetched as whoever asks for them, and shown from memory
    "img-src 'self' data: blob:",
    "font-src 'self'",
    "connect-src 'self'",
    "worker-src 'self'",
    "object-src 'none'",
    "base-uri 'none'",
    "form-action 'self'",
    `frame-ancestors ${framers}`,
    // Serve shows the visitors' page in a frame
    `frame-src 'self'${process.env.FINCH_TALK_PORT ? ` http://*:${process.env.FINCH_TALK_PORT}` : ""}`,
  ].join("; ");
}
