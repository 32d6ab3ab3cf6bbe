import { type NextRequest, NextResponse } from "next/server";
import { refusedOrigin } from "@/server/http/origin";
import { problemResponse } from "@/server/http/problem-response";

/**
 * Stands before every route: refuses hosts and origins that are not ours, and gives pages a
 * Content-Security-Policy with a nonce for this answer alone.
 */
export function proxy(request: NextRequest): Response {
  const refused = refusedOrigin(request.headers);
  if (refused) return problemResponse(refused);
  if (request.nextUrl.pathname.startsWith("/api/")) return NextResponse.next();
  const nonce = btoa(crypto.randomUUID());
  const policy = policyWith(nonce);
  const headers = new Headers(request.headers);
  headers.set("x-nonce", nonce);
  headers.set("content-security-policy", policy);
  const response = NextResponse.next({ request: { headers } });
  response.headers.set("content-security-policy", policy);
  response.headers.set("x-content-type-options", "nosniff");
  response.headers.set("referrer-policy", "no-referrer");
  return response;
}

function policyWith(nonce: string): string {
  const forDevelopment = process.env.NODE_ENV === "development" ? " 'unsafe-eval'" : "";
  return [
    "default-src 'self'",
    `script-src 'self' 'nonce-${nonce}' 'strict-dynamic'${forDevelopment}`,
    `style-src 'self' 'nonce-${nonce}'`,
    "style-src-attr 'unsafe-inline'",
    "img-src 'self' data:",
    "font-src 'self'",
    "connect-src 'self'",
    "object-src 'none'",
    "base-uri 'none'",
    "form-action 'self'",
    "frame-ancestors 'none'",
  ].join("; ");
}
