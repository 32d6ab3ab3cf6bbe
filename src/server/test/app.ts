import type { IncomingMessage, ServerResponse } from "node:http";
import { afterEach, beforeEach } from "vitest";
import type { Content } from "@/core/revision/content";
import chatCompletions from "@/core/wire/profiles/chat-completions.json";
import type { StoredApp } from "../apps/app-store";
import type { Home } from "../home";
import { numbered } from "../live/event-store";
import { testFolder } from "./folder";
import { bodyOf, plainWiring, TestProvider } from "./provider";

/** The key that the provider is called with; it stands in the variable TEST_KEY. */
export const testKey = "secret-4f2a-key";

/** What one call costs where the provider streams as usual. */
export const usualPrice = 38;

/** A data folder with one provider, which a test answers for, and an app that speaks through it. */
export class TestApp {
  home!: Home;
  app!: StoredApp;
  /** The provider, and the name by which revisions know it. */
  provider = "";
  slug = "";
  /** What the provider got, and what it does with the next calls. */
  requests: { url: string; headers: IncomingMessage["headers"]; body: string }[] = [];
  respond: (response: ServerResponse, body: string) => void = streams(["Aye."]);
  private server: TestProvider | undefined;
  private remove = () => {};

  /** One that is made anew for each test of a file. */
  static each(): TestApp {
    const on = new TestApp();
    beforeEach(() => on.start());
    afterEach(() => on.stop());
    return on;
  }

  async start(): Promise<void> {
    process.env.TEST_KEY = testKey;
    this.requests = [];
    this.respond = streams(["Aye."]);
    this.server = await TestProvider.start((request, response) => this.take(request, response));
    ({ home: this.home, remove: this.remove } = testFolder());
    const { providers, apps } = this.home;
    this.provider = providers.add(
      {
        ...plainWiring,
        address: `${this.server.address}/`,
        profileText: JSON.stringify(chatCompletions),
        credential: { kind: "key", secret: { variable: "TEST_KEY" } },
      },
      1,
    );
    const price = { input: 1_000_000, output: 2_000_000, currency: "EUR" };
    providers.putModels(this.provider, [{ name: "m", window: 500, price }]);
    this.slug = providers.byId(this.provider)?.slug ?? "";
    this.app = apps.make("A", this.content({}), 1);
  }

  stop(): void {
    this.remove();
    this.server?.stop();
  }

  /** What the app is at first, with a change. */
  content(change: Partial<Content>): Content {
    const plain: Content = {
      prompt: "Be brief.",
      variables: {},
      provider: this.slug,
      model: "m",
      settings: { maxOutput: 50 },
      memory: { kind: "everything" },
    };
    return { ...plain, ...change };
  }

  eventsOf(reply: string) {
    return this.home.events.ofReply(reply, 0).map(numbered);
  }

  private async take(request: IncomingMessage, response: ServerResponse): Promise<void> {
    const body = await bodyOf(request);
    this.requests.push({ url: request.url ?? "", headers: request.headers, body });
    this.respond(response, body);
  }
}

/** A provider that streams these deltas, and then ends as told. */
export function streams(deltas: string[], finish = "stop", usage = true) {
  return (response: ServerResponse) => {
    response.writeHead(200, { "content-type": "text/event-stream" });
    for (const text of deltas)
      response.write(`data: ${JSON.stringify({ choices: [{ delta: { content: text }, finish_reason: null }] })}\n\n`);
    response.write(`data: ${JSON.stringify({ choices: [{ delta: {}, finish_reason: finish }] })}\n\n`);
    if (usage) response.write('data: {"choices":[],"usage":{"prompt_tokens":30,"completion_tokens":4}}\n\n');
    response.end("data: [DONE]\n\n");
  };
}
