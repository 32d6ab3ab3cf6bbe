import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { refusedOrigin } from "../http/origin";
import { Scrubber } from "./scrub";
import { Signer } from "./secret";

describe("taking a key out of what a provider echoes", () => {
  const scrub = (key: string | undefined, ...chunks: string[]) => {
    const scrubber = new Scrubber(key);
    const passed = chunks.map((chunk) => scrubber.feed(Buffer.from(chunk)).toString());
    return passed.join("") + scrubber.close().toString();
  };

  it("leaves nothing of it, and all the rest as it was", () => {
    expect(scrub("reed-4f2a", "your key reed-4f2a is wrong, reed-4f2a!")).toBe(
      "your key ********* is wrong, *********!",
    );
    expect(scrub(undefined, "no key at all")).toBe("no key at all");
  });

  it("finds it across the border of two chunks, and does not hold back what is not it", () => {
    expect(scrub("reed-4f2a", "your key reed-", "4f2a is wrong")).toBe("your key ********* is wrong");
    expect(scrub("reed-4f2a", "reed-", "swift")).toBe("reed-swift");
  });

  it("finds it however the bytes are cut", () => {
    const key = "aab-aac";
    fc.assert(
      fc.property(
        fc.array(fc.constantFrom("a", "aab-", "aac", key, "x"), { maxLength: 12 }),
        fc.array(fc.nat(60)),
        (parts, cuts) => {
          const text = parts.join("");
          const at = [0, ...cuts.map((cut) => Math.min(cut, text.length)).sort((a, b) => a - b), text.length];
          const chunks = at.slice(1).map((end, i) => text.slice(at[i], end));
          const scrubbed = scrub(key, ...chunks);
          expect(scrubbed).not.toContain(key);
          expect(scrubbed).toHaveLength(text.length);
          expect(scrubbed).toBe(text.replaceAll(key, "*".repeat(key.length)));
        },
      ),
    );
  });
});

describe("signing", () => {
  const signer = new Signer(Buffer.alloc(32, 7));

  it("gives back what it signed, and nothing that it did not", () => {
    const signed = signer.sign("vis_1");
    expect(signer.open(signed)).toBe("vis_1");
    expect(signer.open(signed.replace("vis_1", "vis_2"))).toBeUndefined();
    expect(signer.open("vis_1")).toBeUndefined();
    expect(new Signer(Buffer.alloc(32, 8)).open(signed)).toBeUndefined();
  });
});

describe("hosts and origins", () => {
  const refused = (headers: Record<string, string>) => refusedOrigin(new Headers(headers))?.kind;

  it.each(["localhost:4600", "127.0.0.1:4600", "127.0.0.2", "[::1]:4600"])("%s is one of ours", (host) => {
    expect(refused({ host })).toBeUndefined();
    expect(refused({ host, origin: `http://${host}` })).toBeUndefined();
  });

  it.each(["evil.example", "localhost.evil.example", "127.0.0.1.evil.example", ""])("%s is not", (host) => {
    expect(refused({ host })).toBe("forbidden");
  });

  it("another site's pages may not call", () => {
    expect(refused({ host: "localhost:4600", origin: "http://evil.example" })).toBe("forbidden");
    expect(refused({ host: "localhost:4600", origin: "null" })).toBe("forbidden");
  });
});
