import { type Problem, problem } from "@/core/problem/problem";
import type { Way } from "./way";

/**
 * Why there is no answer: the provider was not reached, or it closed the connection on which it may have begun.
 * @param hasBegun whether the call was on its way
 */
export function failureOf(error: NodeJS.ErrnoException, url: string, way: Way, hasBegun: boolean): Problem {
  const { origin } = new URL(url);
  const code = codeOf(error);
  if (hasBegun)
    return problem("broken-off", `${origin} closed the connection before an answer came.`, {
      advice: "Whether it had begun is not known, so the call was not made again. Send the message again.",
    });
  const { proxy } = way;
  const through = proxy ? ` through the proxy ${new URL(proxy).origin}` : "";
  const why = errorSayings[code] ?? error.message;
  const advice = certificateErrors.test(code)
    ? {
        advice: "Name the file with its certificate among the provider's settings, or use an address that is trusted.",
      }
    : {};
  return problem("unreachable", `${origin} could not be reached${through}: ${why}.`, advice);
}

const errorSayings: Record<string, string> = {
  ECONNREFUSED: "nothing listens there",
  ENOTFOUND: "there is no such host",
  EAI_AGAIN: "the name of the host could not be looked up",
  EHOSTUNREACH: "there is no way to that host",
  DEPTH_ZERO_SELF_SIGNED_CERT: "its certificate is signed by itself",
  SELF_SIGNED_CERT_IN_CHAIN: "its certificate is signed by an authority that is not known here",
  CERT_HAS_EXPIRED: "its certificate has expired",
  UNABLE_TO_VERIFY_LEAF_SIGNATURE: "its certificate is signed by an authority that is not known here",
  ERR_TLS_CERT_ALTNAME_INVALID: "its certificate is for another name",
  EPROTO: "it does not speak TLS there",
};

const certificateErrors = /^(?:DEPTH_ZERO_SELF_SIGNED_CERT|SELF_SIGNED_CERT_IN_CHAIN|UNABLE_TO_VERIFY_LEAF_SIGNATURE)$/;

/** The code of an error, or of what stands behind it. */
function codeOf({ code, cause }: NodeJS.ErrnoException): string {
  return (cause as NodeJS.ErrnoException | undefined)?.code ?? code ?? "";
}
