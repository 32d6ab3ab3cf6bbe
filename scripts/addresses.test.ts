import { afterEach, describe, expect, it, vi } from "vitest";
import { addressesOf, openedAt } from "./addresses.mjs";

describe("where a server can be opened", () => {
  afterEach(() => vi.unstubAllEnvs());

  it("is the host that is listened on", () => {
    expect(addressesOf("127.0.0.1", 4600)).toEqual(["http://127.0.0.1:4600"]);
    expect(addressesOf("desk.test", 80)).toEqual(["http://desk.test:80"]);
    expect(addressesOf("::1", 4600)).toEqual(["http://[::1]:4600"]);
  });

  it.each(["0.0.0.0", "::"])("is each address of this machine, and never %s itself", (host) => {
    const [own, ...others] = addressesOf(host, 4600);
    expect(own).toBe("http://127.0.0.1:4600");
    for (const address of others) expect(address).toMatch(/^http:\/\/\d+(\.\d+){3}:4600$/);
    expect(others).not.toContain("http://0.0.0.0:4600");
  });

  it("is said for the bench, and for pages and apps where they have a port of their own", () => {
    const place = { host: "127.0.0.1", port: 4600 };
    vi.stubEnv("FINCH_TALK_PORT", undefined);
    expect(openedAt("Unruly Finch", place)).toBe("\nUnruly Finch is open at http://127.0.0.1:4600\n");
    vi.stubEnv("FINCH_TALK_PORT", "4601");
    expect(openedAt("Unruly Finch", place)).toContain("Pages and endpoints of apps are open at http://127.0.0.1:4601");
  });
});
