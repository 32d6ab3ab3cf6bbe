import { type ChildProcess, spawn } from "node:child_process";
import { once } from "node:events";
import { mkdtempSync, readdirSync, readFileSync, rmSync, statSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { parseEnv } from "node:util";
import { createParser } from "eventsource-parser";
import type { NumberedEvent } from "@/core/reply/events";
import type { Content } from "@/core/revision/content";
import { freePorts } from "../scripts/free-ports";
import { server, standInServer } from "../scripts/prepare.mjs";

/** The stand-ins, in the order of their ports. */
export const standIns = ["Reedbed", "Saltpan", "Tidegate", "Lantern", "Bellhouse"] as const;
export type StandInName = (typeof standIns)[number];

/** The keys of the stand-ins. */
export const sampleKeys = parseEnv(readFileSync(".env.example", "utf8"));

/** Any number of calls a minute. */
export const noLimits = { visitor: null, address: null, app: null };

/** A call as the stand-in noted it. */
export interface NotedCall {
  model: string;
  messages: { role: string; content: string }[];
  /** All that it was going to say, and what it did say. */
  text: string;
  said: string;
  left: boolean;
}

/** The built application and the real stand-in, in processes and a data folder of their own. */
export class World {
  readonly address: string;
  readonly standIn: string;
  private web: ChildProcess | undefined;
  private reeds: ChildProcess | undefined;

  private constructor(
    private readonly port: number,
    /** The data folder. */
    readonly folder: string,
  ) {
    this.address = `http://127.0.0.1:${port}`;
    this.standIn = `http://127.0.0.1:${port + 1}`;
  }

  /** A world on free ports: the application on the first, the stand-ins on those after it. */
  static async make(folder = mkdtempSync(join(tmpdir(), "finch-"))): Promise<World> {
    return new World(await freePorts(2 + standIns.length), folder);
  }

  /** Where pages and apps are, when they have a port of their own. */
  get talk(): string {
    return `http://127.0.0.1:${this.talkPort}`;
  }

  /** What the web process is to be told, so that they have. */
  get apart(): Record<string, string> {
    return { FINCH_TALK_PORT: String(this.talkPort) };
  }

  private get talkPort(): number {
    return this.port + 1 + standIns.length;
  }

  /** @param log is given every line that the application logs */
  async start(log?: (line: string) => void): Promise<void> {
    await Promise.all([this.startStandIn(), this.startWeb({}, log)]);
  }

  async startWeb(environment: Record<string, string> = {}, log?: (line: string) => void): Promise<void> {
    this.web = this.run(server()[1], environment, log ? "pipe" : "ignore");
    this.web.stdout?.on("data", (bytes) => log?.(String(bytes)));
    await answers(this.web, `${this.address}/api/health`);
  }

  async startStandIn(): Promise<void> {
    this.reeds = this.run(standInServer()[1], {});
    for (const name of standIns) await answers(this.reeds, `${this.at(name)}/standin/about`);
  }

  /** Ends the web process at once, as a power cut would. */
  async killWeb(): Promise<void> {
    await end(this.web, "SIGKILL");
  }

  /** Tells the web process something. */
  signalWeb(signal: NodeJS.Signals): void {
    this.web?.kill(signal);
  }

  /** Ends the server by a signal, waits until it has ended, and gives its exit code. */
  async endWeb(signal: NodeJS.Signals): Promise<number | null> {
    await end(this.web, signal);
    return this.web?.exitCode ?? null;
  }

  async stopStandIn(): Promise<void> {
    await end(this.reeds, "SIGTERM");
  }

  async stop(): Promise<void> {
    await Promise.all([end(this.web, "SIGKILL"), end(this.reeds, "SIGTERM")]);
    for (const name of readdirSync(this.folder)) rmSync(join(this.folder, name), { recursive: true, force: true });
    // one that is a disk of its own is taken away by who mounted it
    if (statSync(this.folder).dev === statSync(tmpdir()).dev) rmSync(this.folder, { recursive: true, force: true });
  }

  /** Whether any file of the data folder holds a text. */
  stands(text: string): boolean {
    return readdirSync(this.folder, { recursive: true, withFileTypes: true }).some(
      (entry) => entry.isFile() && readFileSync(join(entry.parentPath, entry.name)).includes(text),
    );
  }

  /** What health says: its status, and why something can't be stored. */
  async health(): Promise<string> {
    const response = await fetch(`${this.address}/api/health`);
    const { problem } = (await response.json()) as { problem: { detail: string } | null };
    return `${response.status} ${problem?.detail ?? ""}`;
  }

  /** Where a stand-in listens. */
  at(standIn: StandInName): string {
    return `http://127.0.0.1:${this.port + 1 + standIns.indexOf(standIn)}`;
  }

  /** How fast every model speaks: at once, so many tokens a second, or each as it does. */
  async pace(pace: "instant" | "own" | number): Promise<void> {
    for (const name of standIns)
      await this.tellStandIn("PUT", "pace", typeof pace === "number" ? { tokensPerSecond: pace } : { pace }, name);
  }

  /** Has every model say at once what is left of its replies, and all that it is asked from now on. */
  async hurry(): Promise<void> {
    for (const name of standIns) await this.tellStandIn("PUT", "pace", { pace: "instant", underWay: true }, name);
  }

  async fault(plan: object | null, standIn: StandInName = "Reedbed"): Promise<void> {
    await this.tellStandIn(plan ? "PUT" : "DELETE", "fault", plan ?? undefined, standIn);
  }

  /** Has Bellhouse refuse its model until it is switched on again. */
  async takeBellsDown(): Promise<void> {
    const { BELLHOUSE_ID: ringer, BELLHOUSE_SECRET: word } = sampleKeys;
    const address = `${this.at("Bellhouse")}/bells`;
    const token = await fetch(`${address}/token`, { method: "POST", body: JSON.stringify({ ringer, word }) });
    const { pass } = (await token.json()) as { pass: string };
    const down = await fetch(`${address}/bell-plain/up`, { method: "DELETE", headers: { "bell-pass": pass } });
    if (!down.ok) throw new Error(await down.text());
  }

  /** The last 200 calls of Reedbed since they were forgotten. */
  async calls(): Promise<NotedCall[]> {
    return (await fetch(`${this.standIn}/standin/calls`)).json() as Promise<NotedCall[]>;
  }

  /** Has the stand-ins forget what they were called. */
  async forgetCalls(): Promise<void> {
    for (const name of standIns) await this.tellStandIn("DELETE", "calls", undefined, name);
  }

  /** Wires a stand-in, unless it is, and gives the provider's id. Calls are made once, unless a test wants them retried. */
  async wire(standIn: StandInName = "Reedbed"): Promise<string> {
    const { providers } = await this.bench<{ providers: { id: string; name: string }[] }>("GET", "providers");
    const wired = providers.find(({ name }) => name === standIn);
    if (wired) return wired.id;
    const about = (await (await fetch(`${this.at(standIn)}/standin/about`)).json()) as object;
    const { id } = await this.bench<{ id: string }>("POST", "providers", { ...about, address: this.at(standIn) });
    await this.bench("PATCH", `providers/${id}`, { retries: 0 });
    return id;
  }

  /**
   * Makes an app that counts no calls, with its draft changed and put live; a provider in the change is named by
   * its id.
   */
  async makeApp(name: string, change: Partial<Content> = {}, access: object = { limits: noLimits }): Promise<string> {
    const { providers } = await this.bench<{ providers: { id: string; slug: string }[] }>("GET", "providers");
    const provider = providers.find(({ id }) => id === change.provider)?.slug;
    const app = await this.bench<{ slug: string }>("POST", "apps", {
      name,
      provider: await this.wire(),
      model: "reed-swift",
    });
    const content = await this.editDraft(app.slug, { ...change, ...(provider ? { provider } : {}) });
    await this.bench("PUT", `apps/${app.slug}/live`, { content });
    await this.bench("PUT", `apps/${app.slug}/access`, { access });
    return app.slug;
  }

  /** Edits the draft of an app, and gives what it is then. */
  async editDraft(slug: string, change: Partial<Content>): Promise<Content> {
    const { draft, draftHash } = await this.bench<{ draft: Content; draftHash: string }>("GET", `apps/${slug}`);
    const content = { ...draft, ...change };
    await this.bench("PUT", `apps/${slug}/draft`, { content, draftHash });
    return content;
  }

  /** Calls a route of the bench. */
  async bench<T>(method: string, path: string, body?: unknown): Promise<T> {
    const response = await fetch(`${this.address}/api/bench/${path}`, {
      method,
      body: body === undefined ? undefined : JSON.stringify(body),
    });
    if (!response.ok) throw new Error(`${method} ${path}: ${await response.text()}`);
    return (response.status === 204 ? undefined : await response.json()) as T;
  }

  private async tellStandIn(
    method: string,
    what: string,
    body: object | undefined,
    standIn: StandInName,
  ): Promise<void> {
    const response = await fetch(`${this.at(standIn)}/standin/${what}`, { method, body: body && JSON.stringify(body) });
    if (!response.ok) throw new Error(await response.text());
  }

  private run(args: string[], environment: Record<string, string>, output: "ignore" | "pipe" = "ignore"): ChildProcess {
    return spawn(process.execPath, args, {
      stdio: ["ignore", output, "inherit"],
      env: {
        ...process.env,
        NODE_ENV: "production",
        ...sampleKeys,
        FINCH_DATA: this.folder,
        FINCH_HOST: "127.0.0.1",
        FINCH_PORT: String(this.port),
        FINCH_STANDINS: String(this.port + 1),
        NEXT_TELEMETRY_DISABLED: "1",
        ...environment,
      },
    });
  }
}

async function end(process: ChildProcess | undefined, signal: NodeJS.Signals): Promise<void> {
  if (!process || process.exitCode !== null || process.signalCode !== null) return;
  const ended = once(process, "exit");
  process.kill(signal);
  await ended;
}

/** Waits until a process answers; one that ends before that is an error. */
async function answers(process: ChildProcess, url: string): Promise<void> {
  for (let tries = 0; tries < 600; tries++) {
    const isUp = await fetch(url).then(
      (response) => response.ok,
      () => false,
    );
    if (isUp) return;
    if (process.exitCode !== null) throw new Error(`The process for ${url} ended with ${process.exitCode}.`);
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
  throw new Error(`${url} does not answer.`);
}

/** The events of a stream, as they come. */
export async function* eventsOf(response: Response): AsyncGenerator<NumberedEvent> {
  const ready: NumberedEvent[] = [];
  const parser = createParser({
    onEvent: ({ id, event, data }) => ready.push({ id: Number(id), event, data: JSON.parse(data) } as NumberedEvent),
  });
  const utf8 = new TextDecoder();
  for await (const chunk of response.body as unknown as AsyncIterable<Uint8Array>) {
    parser.feed(utf8.decode(chunk, { stream: true }));
    yield* ready.splice(0);
  }
}

/** All events of a stream. */
export async function allEvents(response: Response): Promise<NumberedEvent[]> {
  const events: NumberedEvent[] = [];
  for await (const event of eventsOf(response)) events.push(event);
  return events;
}

/** The text that events add up to. */
export function textIn(events: NumberedEvent[]): string {
  return events.map((each) => (each.event === "text" ? each.data.text : "")).join("");
}
