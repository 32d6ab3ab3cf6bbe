import { type ChildProcess, spawn } from "node:child_process";
import { once } from "node:events";
import { mkdtempSync, readdirSync, readFileSync, rmSync } from "node:fs";
import { Agent, request as httpRequest } from "node:http";
import { tmpdir } from "node:os";
import { join } from "node:path";
import Sqlite from "better-sqlite3";
import type { Memory } from "@/core/context/policies/policies";
import type { Guard } from "@/core/guards/guard";
import type { Content } from "@/core/revision/content";
import { freePorts } from "../scripts/free-ports";
import { server } from "../scripts/prepare.mjs";
import type { Asked } from "./heap";

const agent = new Agent({ keepAlive: true, maxSockets: 1000 });
/** CPU nanoseconds a second below which a process rests, and the most seconds that it is waited for. */
const calmCpu = 30_000_000;
const mostWaited = 90;

/** The processes that a benchmark runs against: the source, the plain relay, and the built application. */
export class Rig {
  readonly source: string;
  readonly relay: string;
  readonly app: string;
  /** The data folder of the application. */
  readonly folder = mkdtempSync(join(tmpdir(), "finch-bench-"));
  private readonly children: ChildProcess[] = [];
  /** Apps that were made so far. */
  private made = 0;

  private constructor(private readonly firstPort: number) {
    const at = (place: number) => `http://127.0.0.1:${firstPort + place}`;
    this.source = at(0);
    this.relay = at(1);
    this.app = at(2);
  }

  /** A rig on free ports. */
  static async make(): Promise<Rig> {
    return new Rig(await freePorts(3));
  }

  async start(): Promise<void> {
    const { firstPort } = this;
    this.run(["--import", "tsx", "benchmarks/source.ts", String(firstPort)]);
    this.run(["--import", "tsx", "benchmarks/plain-relay.ts", String(firstPort + 1), String(firstPort)]);
    this.run(server("./benchmarks/heap.ts")[1]);
    for (const url of [`${this.source}/up`, `${this.relay}/up`, `${this.app}/api/health`]) await up(url);
  }

  /** CPU nanoseconds that a process has used so far, all its threads together. */
  cpu(which: "relay" | "app"): number {
    const pid = this.children[which === "relay" ? 1 : 2]?.pid;
    const tasks = `/proc/${pid}/task`;
    return readdirSync(tasks).reduce(
      (sum, task) => sum + Number(readFileSync(join(tasks, task, "schedstat"), "utf8").split(" ")[0]),
      0,
    );
  }

  /** Waits until the application has done what was left to do behind what went before: packing, deleting, bringing indexes together. */
  async calm(): Promise<void> {
    for (let seconds = 0, rests = 0; seconds < mostWaited && rests < 2; seconds++) {
      const before = this.cpu("app");
      await new Promise((resolve) => setTimeout(resolve, 1_000));
      rests = this.cpu("app") - before < calmCpu ? rests + 1 : 0;
    }
  }

  /** Bytes of its heap that the application uses, garbage collected. */
  heap(): Promise<number> {
    return this.told("heap");
  }

  /** Has its event loop watched, until it is asked for how long that stood. */
  async watch(): Promise<void> {
    await this.told("watch");
  }

  /** Milliseconds for which its event loop stood at most since it was watched. */
  stall(): Promise<number> {
    return this.told("stall");
  }

  private async told(what: Asked): Promise<number> {
    const app = this.children[2];
    if (!app) throw new Error("The application does not run.");
    app.send(what);
    const [number] = await once(app, "message");
    return Number(number);
  }

  /** Has an app carry something else of the turns before. @param replies the address of its replies */
  async setMemory(replies: string, memory: Memory): Promise<void> {
    const address = `${this.app}/api/bench/apps/${new URL(replies).pathname.split("/")[3]}`;
    const { draft, draftHash } = (await (await fetch(address)).json()) as { draft: object; draftHash: string };
    const stored = await fetch(`${address}/draft`, {
      method: "PUT",
      body: JSON.stringify({ content: { ...draft, memory }, draftHash }),
    });
    if (!stored.ok) throw new Error(await stored.text());
  }

  /** Puts a guard live in an app. @param replies the address of its replies */
  async guard(replies: string, guard: Guard): Promise<void> {
    const address = `apps/${new URL(replies).pathname.split("/")[3]}`;
    const { draft } = (await (await fetch(`${this.app}/api/bench/${address}`)).json()) as { draft: Content };
    await this.bench(`${address}/live`, { content: { ...draft, guards: [guard] } }, "PUT");
  }

  /** Has an app's own model judge its replies. @param replies the address of its replies */
  async judge(replies: string): Promise<void> {
    const address = `${this.app}/api/bench/apps/${new URL(replies).pathname.split("/")[3]}`;
    const { draft } = (await (await fetch(address)).json()) as { draft: Content };
    const by = { provider: draft.provider, model: draft.model };
    await this.guard(replies, {
      name: "Judge",
      on: "shown",
      looksFor: { kind: "judge", rubric: "is kind", by },
      does: "refuse",
    });
  }

  /** The id of an app in the data folder, by the address of its replies. */
  idOf(replies: string): string {
    const database = new Sqlite(join(this.folder, "finch.sqlite"), { readonly: true });
    try {
      const slug = new URL(replies).pathname.split("/")[3];
      return database.prepare("SELECT id FROM apps WHERE slug = ?").pluck().get(slug) as string;
    } finally {
      database.close();
    }
  }

  /** The address of an app's Build view, by that of its replies. */
  buildOf(replies: string): string {
    return `${this.app}/apps/${new URL(replies).pathname.split("/")[3]}/build?conversation=new`;
  }

  /** Makes an app that speaks through the source in a shape, at so many events a second and so many in all; gives its replies' address. */
  async makeApp(rate: number, count: number, shape = "chat-completions", matter = ""): Promise<string> {
    const model = {
      name: `r${rate}n${count}${matter && `-${matter}`}`,
      window: 100_000,
      price: { input: 1, output: 1, currency: "EUR" },
    };
    // two groups may want the same of the source
    this.made += 1;
    const name = `${model.name} ${shape} ${this.made}`;
    const provider = await this.bench("providers", {
      name,
      address: `${this.source}/${shape}`,
      profile: shape,
      credential: { kind: "none" },
      models: [model],
    });
    return this.openApp(name, provider.id, model.name);
  }

  /** Makes an app that speaks through a provider which answers at once; gives its replies' address. */
  async makeBodies(address: string): Promise<string> {
    const model = { name: "body", window: 1_000_000_000, price: { input: 0, output: 0, currency: "EUR" } };
    const wired = {
      // there is another in each pass
      name: `Bodies at ${new URL(address).port}`,
      address,
      profile: "chat-completions",
      credential: { kind: "none" },
      models: [model],
    };
    const provider = await this.bench("providers", wired);
    return this.openApp("Bodies", provider.id, model.name);
  }

  async stop(): Promise<void> {
    for (const child of this.children) {
      child.kill("SIGKILL");
      await once(child, "exit");
    }
    rmSync(this.folder, { recursive: true, force: true });
  }

  /** Makes an app that takes any number of calls a minute; gives its replies' address. */
  private async openApp(name: string, provider: string, model: string): Promise<string> {
    const { slug } = await this.bench("apps", { name, provider, model });
    const limits = { visitor: null, address: null, app: null };
    await this.bench(`apps/${slug}/access`, { access: { limits } }, "PUT");
    return `${this.app}/api/apps/${slug}/replies`;
  }

  private async bench(path: string, body: object, method = "POST"): Promise<{ id: string; slug: string }> {
    const response = await fetch(`${this.app}/api/bench/${path}`, { method, body: JSON.stringify(body) });
    if (!response.ok) throw new Error(await response.text());
    return (await response.json()) as { id: string; slug: string };
  }

  private run(args: string[]): void {
    const env = {
      ...process.env,
      NODE_ENV: "production" as const,
      FINCH_DATA: this.folder,
      FINCH_HOST: "127.0.0.1",
      FINCH_PORT: String(this.firstPort + 2),
      NEXT_TELEMETRY_DISABLED: "1",
    };
    this.children.push(spawn(process.execPath, args, { stdio: ["ignore", "ignore", "inherit", "ipc"], env }));
  }
}

/** Waits until an address answers. */
export async function up(url: string): Promise<void> {
  for (let tries = 0; tries < 200; tries++) {
    const answers = await fetch(url, { signal: AbortSignal.timeout(2000) }).then(
      () => true,
      () => false,
    );
    if (answers) return;
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
  throw new Error(`${url} does not answer.`);
}

/** One call, read to its end: milliseconds to the first text, and the number of bytes. */
export function read(url: string, body?: string): Promise<{ firstText: number; whole: number; bytes: number }> {
  return new Promise((resolve, reject) => {
    const started = performance.now();
    let firstText = 0;
    let bytes = 0;
    const call = httpRequest(
      url,
      { method: body === undefined ? "GET" : "POST", agent, headers: { accept: "text/event-stream" } },
      (response) => {
        response.on("data", (chunk: Buffer) => {
          bytes += chunk.length;
          if (firstText === 0 && (chunk.includes('{"text":') || chunk.includes('"content":')))
            firstText = performance.now() - started;
        });
        response.on("end", () => resolve({ firstText, whole: performance.now() - started, bytes }));
        response.on("error", reject);
      },
    );
    call.on("error", reject);
    call.end(body);
  });
}

/** The value below which a share of a list lies. */
export function quantile(values: number[], share: number): number {
  const sorted = values.toSorted((a, b) => a - b);
  return sorted[Math.min(Math.floor(sorted.length * share), sorted.length - 1)] ?? Number.NaN;
}
