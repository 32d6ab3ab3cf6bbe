import { failureOf } from "./api";

/**
 * The lines of an NDJSON answer, each as it comes. Ends quietly when it is stopped.
 * @throws {CallFailed}
 */
export async function* ndjsonOf(path: string, body: object, signal: AbortSignal): AsyncGenerator<unknown> {
  try {
    const response = await fetch(path, { method: "POST", body: JSON.stringify(body), signal });
    if (!response.ok || !response.body) throw await failureOf(response);
    const reader = response.body.pipeThrough(new TextDecoderStream()).getReader();
    let rest = "";
    for (let { value, done } = await reader.read(); !done; { value, done } = await reader.read()) {
      const lines = (rest + value).split("\n");
      rest = lines.pop() ?? "";
      for (const line of lines) if (line !== "") yield JSON.parse(line);
    }
  } catch (error) {
    if (!signal.aborted) throw error;
  }
}
