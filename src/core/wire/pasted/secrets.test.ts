import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { fit } from "../fitting/fit";
import { markedAnswer, markedRequest } from "../marks/marks";
import { compileProfile } from "../profile";
import { brokenCommands, commandsWithSecrets } from "../samples/pasted";
import { requestIn } from "./request";
import { hideKnown, hideSecrets, revealed } from "./secrets";

const answer = '{"out":{"text":"Yes, the 8:10 runs."},"ended":"stop"}';

describe.each(commandsWithSecrets)("a pasted command with $name", ({ text, secrets, key }) => {
  it("is shown without any secret, and is the same when they are put back", () => {
    const hidden = hideSecrets(text);
    for (const secret of secrets) expect(hidden.text).not.toContain(secret);
    expect(revealed(hidden.text, hidden.secrets)).toBe(text);
    expect(hideSecrets(hidden.text, hidden.secrets)).toEqual(hidden);
    expect(requestIn(hidden.text).kind).toBe("request");
  });

  it("is fitted from its hidden form too, whatever its secrets are called", () => {
    const known = Object.fromEntries(secrets.map((secret, at) => [`known-${at}`, secret]));
    const hidden = hideSecrets(text, known);
    const fitted = fit({ request: hidden.text, answer, answers: { "app role": "app" } });
    if (fitted.kind === "none") throw new Error(fitted.why);
    const named = JSON.stringify(fitted.fitting.provider).match(/(?<="hidden":")[^"]+/g) ?? [];
    for (const name of named) expect(Object.keys(hidden.secrets)).toContain(name);
  });

  it("is proposed with its key found or asked for, and every secret by its name alone", () => {
    const fitted = fit({ request: text, answer, answers: { "app role": "app" } });
    if (fitted.kind === "none") throw new Error(fitted.why);
    const { fitting } = fitted;
    const asked = fitting.questions.find(({ id }) => id === "key");
    expect(fitting.findings.find(({ what }) => what === "key")?.where).toBe(key);
    expect(asked === undefined).toBe(key !== undefined);
    if (asked) expect(asked.choices?.length).toBeGreaterThanOrEqual(2);
    for (const secret of secrets) expect(JSON.stringify(fitting)).not.toContain(secret);
    expect(() => compileProfile(fitting.profile)).not.toThrow();
    // each choice is an answer
    for (const choice of asked?.choices ?? []) {
      const chosen = fit({ request: text, answer, answers: { "app role": "app", key: choice } });
      const credential = chosen.kind === "fitted" ? chosen.fitting.provider.credential.kind : "none";
      expect(credential).not.toBe("none");
    }
  });
});

describe.each(brokenCommands)("a command that is broken: $name", ({ text, secrets }) => {
  it("is shown without its secrets, and is told to be none or fitted, but never throws", () => {
    const hidden = hideSecrets(text);
    for (const secret of secrets) expect(hidden.text).not.toContain(secret);
    expect(revealed(hidden.text, hidden.secrets)).toBe(text);
    const fitted = fit({ request: text, answer });
    for (const secret of secrets) expect(JSON.stringify(fitted)).not.toContain(secret);
    if (fitted.kind === "none") expect(fitted.why).toMatch(/\.$/);
  });
});

describe("what belongs to one call", () => {
  it("is left out of a profile, and said to be", () => {
    const request = `curl http://127.0.0.1:1/x -H 'idempotency-key: 88a1' -H 'x-request-id: r-1' -H 'x-key: kq7Zf81xT0' -d '{}'`;
    const fitted = fit({ request, answer });
    const { profile, missing } = fitted.kind === "fitted" ? fitted.fitting : { profile: undefined, missing: [] };
    expect(profile?.request.headers).toEqual({ "x-key": "<key>", "content-type": "application/json" });
    expect(missing.join(" ")).toMatch(/idempotency-key was left out.*x-request-id was left out/s);
  });
});

describe("an answer that echoes a secret", () => {
  it("is shown without it", () => {
    const { secrets } = hideSecrets("curl x.test -H 'x-api-key: kq7-Zf81xT0'");
    expect(hideKnown('{"key":"kq7-Zf81xT0"}', secrets)).toBe('{"key":"•x-api-key•"}');
  });
});

describe("whatever is typed", () => {
  const words = fc.constantFrom(
    ...[
      "curl",
      "-H",
      "-d",
      "-u",
      "--url",
      "-X",
      "POST",
      "'x-api-key:",
      "k1'",
      '"',
      "'",
      "\\",
      "$(",
      "$",
      "{",
      "}",
      "[",
      "]",
    ],
    ...[
      "http://",
      "http://[",
      "%",
      "%E0",
      ";",
      "|",
      "&",
      "<",
      ">",
      "#",
      "*",
      "~",
      "\n",
      "\u0000",
      "\ud83d",
      '{"a":"b"}',
    ],
  );

  it("is a value, never an error", () => {
    fc.assert(
      fc.property(fc.array(fc.oneof(words, fc.string()), { maxLength: 14 }), fc.boolean(), (parts, spaced) => {
        const text = `${spaced ? "curl " : ""}${parts.join(spaced ? " " : "")}`;
        const hidden = hideSecrets(text);
        expect(revealed(hidden.text, hidden.secrets)).toBe(text.replace(/\r\n/g, "\r\n"));
        const fitted = fit({ request: text, answer: text, failure: text });
        expect(["fitted", "none"]).toContain(fitted.kind);
      }),
      { numRuns: 2_000 },
    );
  });

  it("can be marked, also where an answer is nested 5,000 deep", () => {
    const fitted = fit({ request: "curl x.test -d '{}'", answer });
    if (fitted.kind === "none") throw new Error(fitted.why);
    const profile = compileProfile(fitted.fitting.profile);
    const deep = `{"out":${"[".repeat(5_000)}${"]".repeat(5_000)}}`;
    expect(
      markedAnswer(profile, deep)
        .map(({ text }) => text)
        .join(""),
    ).toContain("[[[");
    expect(fit({ request: "curl x.test -d '{}'", answer: deep, failure: deep }).kind).toBe("fitted");
    const call = { model: "m", stream: false, messages: [], settings: {} };
    expect(markedRequest(profile, call, "x.test").length).toBeGreaterThan(0);
  });
});
