/** A client of the shape that most model servers share, as somebody would write it who knows no server in particular. */
export class ChatClient {
  constructor(
    private readonly base: string,
    private readonly key: string,
  ) {}

  /** The whole answer. */
  async chat(body: object, signal?: AbortSignal): Promise<Answer> {
    return (await (await this.post(body, signal)).json()) as Answer;
  }

  /** The text of each choice, put together from the chunks of a stream. */
  async stream(body: object, signal?: AbortSignal): Promise<{ texts: string[]; ends: string[]; usage?: object }> {
    const response = await this.post({ ...body, stream: true }, signal);
    const [texts, ends]: [string[], string[]] = [[], []];
    let [rest, usage]: [string, object | undefined] = ["", undefined];
    for await (const part of response.body?.pipeThrough(new TextDecoderStream()) ?? []) {
      const events = (rest + part).split("\n\n");
      rest = events.pop() ?? "";
      for (const event of events) {
        if (!event.startsWith("data: ") || event === "data: [DONE]") continue;
        const chunk = JSON.parse(event.slice(6));
        if (chunk.error) throw new ChatError(200, chunk.error);
        if (chunk.usage) usage = chunk.usage;
        for (const { index, delta, finish_reason } of chunk.choices) {
          texts[index] = (texts[index] ?? "") + (delta.content ?? "");
          if (finish_reason) ends[index] = finish_reason;
        }
      }
    }
    return { texts, ends, usage };
  }

  private async post(body: object, signal?: AbortSignal): Promise<Response> {
    const headers = { "content-type": "application/json", authorization: `Bearer ${this.key}` };
    const response = await fetch(`${this.base}/chat/completions`, {
      method: "POST",
      headers,
      body: JSON.stringify(body),
      signal,
    });
    if (!response.ok) throw new ChatError(response.status, ((await response.json()) as { error: Told }).error);
    return response;
  }
}

interface Told {
  message: string;
  type: string;
  param: string | null;
  code: string;
}

interface Answer {
  choices: { index: number; message: { role: string; content: string }; finish_reason: string }[];
  usage: { prompt_tokens: number; completion_tokens: number; total_tokens: number };
}

export class ChatError extends Error {
  constructor(
    readonly status: number,
    readonly told: Told,
  ) {
    super(told.message);
  }
}
