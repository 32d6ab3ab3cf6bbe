import { describe, expect, it } from "vitest";
import { asCurl } from "./curl";
import { hiddenKey } from "./encode";
import { requestIn } from "./pasted/request";

describe("a request as a curl command", () => {
  const request = {
    method: "POST",
    url: `http://127.0.0.1:4612/tides?pass=${hiddenKey}`,
    headers: { authorization: `Bearer ${hiddenKey}`, "x-note": 'say "hi" for $5' },
    body: '{"text":"it\'s \\"quoted\\" — $HOME\\n"}',
  };

  it("names the key by its variable", () => {
    expect(asCurl(request, "TIDE_KEY")).toContain('-H "authorization: Bearer $TIDE_KEY"');
    expect(asCurl(request, "TIDE_KEY")).toContain('"http://127.0.0.1:4612/tides?pass=$TIDE_KEY"');
    expect(asCurl(request, "TIDE_KEY")).not.toContain(hiddenKey);
  });

  it("is read back to the same request", () => {
    const result = requestIn(asCurl(request, "TIDE_KEY"));
    const read = result.kind === "request" ? result.request : undefined;
    expect(read).toMatchObject({
      method: "POST",
      url: "http://127.0.0.1:4612/tides?pass=$TIDE_KEY",
      body: request.body,
    });
    expect(Object.fromEntries(read?.headers ?? [])).toEqual({
      authorization: "Bearer $TIDE_KEY",
      "x-note": 'say "hi" for $5',
    });
  });
});
