import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { refusedHost, refusedOrigin } from "../entrance/origin";
import { Scrubber, TextScrubber } from "./scrub";
import { Seal } from "./seal";
import { Signer } from "./secret";

describe("taking a key out of what a provider echoes", () => {
  const scrub = (key: string | undefined, ...chunks: string[]) => {
    const scrubber = new Scrubber(key === undefined ? [] : [key]);
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

describe("taking several secrets out", () => {
  it("finds each of them, as it is and as JSON or a URL would write it", () => {
    const secrets = ['a "quoted" secret', "pass word"];
    const echoed = `{"a":${JSON.stringify(secrets[0])},"b":"pass%20word","c":"pass word"}`;
    expect(Scrubber.text(echoed, secrets)).toBe(
      `{"a":"${"*".repeat(19)}","b":"${"*".repeat(11)}","c":"${"*".repeat(9)}"}`,
    );
  });

  it("finds one in text that comes in pieces, and holds nothing back for good", () => {
    const scrubber = new TextScrubber(["reed-4f2a"]);
    const said = ["Your key is re", "ed-", "4f", "2a. The reed", " grows."].map((piece) => scrubber.feed(piece));
    expect(said.join("") + scrubber.close()).toBe("Your key is *********. The reed grows.");
  });

  it("keeps a character whose halves come apart", () => {
    const scrubber = new TextScrubber(["reed-4f2a"]);
    const [first, second] = ["🚲"[0] ?? "", "🚲"[1] ?? ""];
    const said = [`Bring the ${first}`, second, `, says reed-4f2a to ${first}`, `${second}!`].map((piece) =>
      scrubber.feed(piece),
    );
    expect(said.join("") + scrubber.close()).toBe("Bring the 🚲, says ********* to 🚲!");
  });
});

describe("sealing", () => {
  const seal = new Seal(Buffer.alloc(32, 7));

  it("opens what it sealed, and gives no two sealings alike", () => {
    expect(seal.open(seal.close("bell-7a10 — é"))).toBe("bell-7a10 — é");
    expect(seal.close("bell")).not.toBe(seal.close("bell"));
    expect(seal.close("bell-7a10")).not.toContain("bell");
  });

  it("opens nothing that was changed, or sealed under another key", () => {
    const bytes = Buffer.from(seal.close("bell"), "base64");
    bytes[bytes.length - 1] = (bytes.at(-1) ?? 0) ^ 1;
    expect(seal.open(bytes.toString("base64"))).toBeUndefined();
    expect(new Seal(Buffer.alloc(32, 8)).open(seal.close("bell"))).toBeUndefined();
    expect(seal.open("")).toBeUndefined();
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
  const refused = (headers: Record<string, string>, names: string[] = []) =>
    (refusedHost(new Headers(headers), names) ?? refusedOrigin(new Headers(headers)))?.kind;

  it.each(["localhost:4600", "127.0.0.1:4600", "127.0.0.2", "[::1]:4600"])("%s is one of ours", (host) => {
    expect(refused({ host })).toBeUndefined();
    expect(refused({ host, origin: `http://${host}` })).toBeUndefined();
  });

  it.each(["evil.example", "localhost.evil.example", "127.0.0.1.evil.example", ""])("%s is not", (host) => {
    expect(refused({ host })).toBe("forbidden");
  });

  it("a host is ours where the developer named it, and an address where more than this machine is listened to", () => {
    const door = (isHere: boolean, host: string) => ({
      host,
      "finch-door": JSON.stringify({ leads: "talk", isHere, address: "", origin: `http://${host}` }),
    });
    expect(refused(door(false, "desk.test:4601"), ["desk.test"])).toBeUndefined();
    expect(refused(door(false, "desk.test:4601"))).toBe("forbidden");
    expect(refused(door(false, "192.168.1.7:4601"))).toBeUndefined();
    expect(refused(door(true, "192.168.1.7:4601"))).toBe("forbidden");
  });

  it("another site's pages may not call", () => {
    expect(refused({ host: "localhost:4600", origin: "http://evil.example" })).toBe("forbidden");
    expect(refused({ host: "localhost:4600", origin: "null" })).toBe("forbidden");
  });
});
