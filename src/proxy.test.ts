import { NextRequest } from "next/server";
import { describe, expect, it } from "vitest";
import { proxy } from "./proxy";

const asking = (path: string, headers: Record<string, string> = {}) =>
  proxy(new NextRequest(`http://127.0.0.1:4600${path}`, { headers: { host: "127.0.0.1:4600", ...headers } }));

describe("what stands in front of every route", () => {
  it.each(["127.0.0.1:4600", "localhost:4600", "[::1]:4600", "localhost"])("lets the host %s through", (host) => {
    expect(asking("/api/health", { host }).status).toBe(200);
  });

  it.each(["elsewhere.test", "127.0.0.1.elsewhere.test", "localhost.elsewhere.test:4600", ""])(
    "refuses the host %j, which another page could have had point here",
    async (host) => {
      const response = asking("/api/bench/apps", { host });
      expect([response.status, response.headers.get("content-type")]).toEqual([403, "application/problem+json"]);
      expect(await response.json()).toMatchObject({ kind: "forbidden" });
    },
  );

  it.each(["http://elsewhere.test", "null", "https://127.0.0.1:4600", "http://127.0.0.1:4601"])(
    "refuses calls from pages of %s",
    (origin) => {
      expect(asking("/api/bench/apps", { origin }).status).toBe(403);
    },
  );

  it("lets calls from its own pages through", () => {
    expect(asking("/api/bench/apps", { origin: "http://127.0.0.1:4600" }).status).toBe(200);
  });

  it("gives each page a policy with a nonce of its own, and lets no script in but by it", () => {
    const policies = [asking("/apps"), asking("/apps")].map(({ headers }) => headers.get("content-security-policy"));
    for (const policy of policies) {
      expect(policy).toMatch(/script-src 'self' 'nonce-[\w+/=]{20,}' 'strict-dynamic'(;|$)/);
      expect(policy).toContain("object-src 'none'");
      expect(policy).toContain("frame-ancestors 'none'");
    }
    expect(policies[0]).not.toBe(policies[1]);
    expect(asking("/apps").headers.get("x-content-type-options")).toBe("nosniff");
  });

  it("puts no page policy on calls", () => {
    expect(asking("/api/health").headers.get("content-security-policy")).toBeNull();
  });
});
