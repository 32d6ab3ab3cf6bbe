import { problem } from "@/core/problem/problem";
import { type AnswerOf, addressFor, answersAt, type Call, type InputOf, type LineOf } from "./call";
import { benchProblemSchema, type ProblemDocument, problemDocument } from "./problem";

/** Thrown when a call fails, with the problem document that came back. */
export class CallFailed extends Error {
  constructor(readonly problem: ProblemDocument) {
    super(problem.detail);
  }
}

/** Makes calls of the contract over HTTP. @param base scheme, host and port; empty for a page of the same server */
export class Client {
  constructor(private readonly base = "") {}

  /**
   * Makes a call and gives what its answer holds.
   * @throws {CallFailed}
   */
  async send<C extends Call>(declared: C, input: InputOf<C>, signal?: AbortSignal): Promise<AnswerOf<C>> {
    return this.answer(declared, await this.fetch(declared, input, signal));
  }

  /** Makes a call that takes bytes, and gives what its answer holds. @throws {CallFailed} */
  async sendBytes<C extends Call>(declared: C, input: InputOf<C>, bytes: BodyInit): Promise<AnswerOf<C>> {
    const type = declared.takes?.types[0] ?? "application/octet-stream";
    return this.answer(
      declared,
      await this.fetch(declared, input, undefined, { body: bytes, headers: { "content-type": type } }),
    );
  }

  private async answer<C extends Call>(declared: C, response: Response): Promise<AnswerOf<C>> {
    const [answer] = answersAt(declared, response.status);
    if (answer?.kind !== "json") return undefined as AnswerOf<C>;
    const read = answer.schema.safeParse(await response.json().catch(() => undefined));
    if (read.success) return read.data as AnswerOf<C>;
    const place = read.error.issues[0]?.path.map(String).join(".") ?? "";
    throw unexpected(declared, place ? ` at ${place}` : "");
  }

  /** Makes a call and gives the text of its answer as it stands. @throws {CallFailed} */
  async text<C extends Call>(declared: C, input: InputOf<C>): Promise<string> {
    return (await this.fetch(declared, input)).text();
  }

  /**
   * Makes a call and gives the lines of its answer, each as it comes. Ends quietly when it is stopped.
   * @throws {CallFailed}
   */
  async *lines<C extends Call>(declared: C, input: InputOf<C>, signal: AbortSignal): AsyncGenerator<LineOf<C>> {
    try {
      const response = await this.fetch(declared, input, signal);
      const [answer] = answersAt(declared, response.status);
      if (answer?.kind !== "lines" || !response.body) throw unexpected(declared, "");
      const reader = response.body.pipeThrough(new TextDecoderStream()).getReader();
      let rest = "";
      for (let { value, done } = await reader.read(); !done; { value, done } = await reader.read()) {
        const complete = (rest + value).split("\n");
        rest = complete.pop() ?? "";
        for (const line of complete) if (line !== "") yield answer.schema.parse(JSON.parse(line)) as LineOf<C>;
      }
    } catch (error) {
      if (!signal.aborted) throw error;
    }
  }

  private async fetch<C extends Call>(
    declared: C,
    input: InputOf<C>,
    signal?: AbortSignal,
    given: RequestInit = {},
  ): Promise<Response> {
    const { method, body } = declared;
    const address = this.base + addressFor(declared, input);
    const init: RequestInit = { ...given, method, signal };
    if (body) {
      init.body = JSON.stringify((input as unknown as { body: unknown }).body);
      init.headers = { "content-type": body.type };
    }
    let response: Response;
    try {
      response = await fetch(address, init);
    } catch (error) {
      if (signal?.aborted) throw error;
      throw new CallFailed(problemDocument(problem("away", "The server of this page can't be reached.")));
    }
    if (response.ok) return response;
    throw await failureOf(response);
  }
}

function unexpected({ method, path }: Call, where: string): CallFailed {
  return new CallFailed(
    problemDocument(
      problem("internal", `The answer of ${method} ${path} is not as expected${where}.`, {
        advice: "Reload the page; if it stays so, the server is of another version than the page.",
      }),
    ),
  );
}

/** The failure that an answer tells of. */
async function failureOf(response: Response): Promise<CallFailed> {
  const document = benchProblemSchema.safeParse(await response.json().catch(() => undefined));
  return new CallFailed(
    document.success
      ? document.data
      : problemDocument(problem("internal", `The server answered with status ${response.status}.`)),
  );
}
