import type { RawAnswer } from "@/contract/tries";
import { type Problem, problem } from "@/core/problem/problem";
import type { Limits } from "@/core/provider/limits";
import { Scrubber } from "../security/scrub";
import { type Exchange, exchange } from "./exchange";
import type { Outgoing } from "./outgoing";
import type { Way } from "./way";

/** Bytes of an answer that is held as a whole. */
const largestAnswer = 4 * 1024 * 1024;

/**
 * Makes a request and gives the whole of its answer, with when its parts arrived; for calls beside
 * those for a reply. Secrets in the answer are taken out.
 */
export function rawAnswer(
  outgoing: Outgoing,
  limits: Limits,
  secrets: readonly string[],
  way: Way,
  signal?: AbortSignal,
): Promise<RawAnswer> {
  return new Promise((resolve) => {
    const scrubber = new Scrubber(secrets);
    const parts: Buffer[] = [];
    const arrivals: [number, number][] = [];
    const started = performance.now();
    const elapsed = () => Math.round((performance.now() - started) * 10) / 10;
    let head: { status: number | null; contentType: string; headers: Record<string, string> } = {
      status: null,
      contentType: "",
      headers: {},
    };
    let size = 0;
    let under: Exchange | undefined;
    const end = (failure: Problem | null) => {
      parts.push(scrubber.close());
      const hidden = Object.fromEntries(
        Object.entries(head.headers).map(([name, value]) => [name, Scrubber.text(value, secrets)]),
      );
      resolve({
        ...head,
        headers: hidden,
        text: Buffer.concat(parts).toString("utf8"),
        arrivals,
        ms: elapsed(),
        problem: failure,
      });
    };
    under = exchange(
      outgoing,
      limits,
      {
        head: ({ status, contentType, headers }) => {
          head = { status, contentType, headers: headers ?? {} };
        },
        bytes: (bytes) => {
          size += bytes.length;
          arrivals.push([elapsed(), bytes.length]);
          parts.push(Buffer.from(scrubber.feed(Buffer.from(bytes))));
          if (size <= largestAnswer) return;
          void under?.abort();
          end(problem("bad-reply", "The answer is larger than 4 MiB."));
        },
        close: (isWhole) =>
          end(isWhole ? null : problem("broken-off", "The connection was closed before the answer was whole.")),
        fail: end,
      },
      way,
    );
    signal?.addEventListener("abort", () => {
      void under?.abort();
      end(problem("broken-off", "The call was stopped."));
    });
  });
}
