import { exec } from "node:child_process";
import type { Limits } from "@/contract/providers";
import { type Problem, problem } from "@/core/reply/problem";
import { excerpt, parseJson } from "@/core/wire/json";
import { compilePath } from "@/core/wire/path";
import { rawAnswer } from "../dispatches/raw-answer";
import { keyFrom } from "../security/keys";
import { Scrubber } from "../security/scrub";
import type { Seal } from "../security/seal";
import type { StoredProvider, StoredSecret } from "./provider-store";

/** What a call shows that it may be made, with everything that must never be shown. */
export type Resolved = { key: string | undefined; secrets: string[]; problem?: undefined } | { problem: Problem };

interface Token {
  key: string;
  secrets: string[];
  /** Epoch milliseconds after which it is fetched anew. */
  until: number;
}

const commandLimitMs = 15_000;
/** Seconds before its end at which a token is fetched anew. */
const margin = 20;
/** Seconds that a token is kept that does not say how long it is good for. */
const usualLife = 300;

/** Resolves credentials; keeps tokens that were fetched until shortly before they end. */
export class Credentials {
  private readonly tokens = new Map<string, Token>();
  private readonly under = new Map<string, Promise<Resolved>>();

  constructor(private readonly seal: Seal) {}

  /** What a call of a provider carries; a problem where that can't be had. */
  async resolve(provider: StoredProvider): Promise<Resolved> {
    const { credential } = provider;
    const shared = headerSecrets(provider);
    if (credential.kind === "none") return { key: undefined, secrets: shared };
    if (credential.kind === "key" || credential.kind === "basic") {
      const secret = this.read(credential.secret);
      if (secret === undefined) return { problem: missing(provider.name, credential.secret) };
      if (credential.kind === "key") return { key: secret, secrets: [secret, ...shared] };
      const key = Buffer.from(`${credential.user}:${secret}`).toString("base64");
      return { key, secrets: [secret, key, ...shared] };
    }
    return this.token(provider, shared);
  }

  /** All secrets of a provider that are at hand without asking for any. */
  known(provider: StoredProvider): string[] {
    const { credential } = provider;
    const named =
      credential.kind === "none" || credential.kind === "command"
        ? []
        : [credential.secret, ...(credential.kind === "token" ? [credential.id] : [])];
    const own = named.flatMap((secret) => this.read(secret) ?? []);
    return [...own, ...(this.tokens.get(provider.id)?.secrets ?? []), ...headerSecrets(provider)];
  }

  /** Lets go of a provider's token, since it was refused or its credential changed; says whether there was one. */
  forget(provider: Pick<StoredProvider, "id">): boolean {
    return this.tokens.delete(provider.id);
  }

  private async token(provider: StoredProvider, shared: string[]): Promise<Resolved> {
    const kept = this.tokens.get(provider.id);
    if (kept && kept.until > Date.now()) return { key: kept.key, secrets: [...kept.secrets, ...shared] };
    // several calls at once fetch one token
    let fetching = this.under.get(provider.id);
    if (!fetching) {
      fetching = this.fetch(provider).finally(() => this.under.delete(provider.id));
      this.under.set(provider.id, fetching);
    }
    const fetched = await fetching;
    return fetched.problem ? fetched : { ...fetched, secrets: [...fetched.secrets, ...shared] };
  }

  private async fetch(provider: StoredProvider): Promise<Resolved> {
    const { credential } = provider;
    const fetched = credential.kind === "command" ? await this.run(provider, credential) : await this.request(provider);
    if ("kind" in fetched) return { problem: fetched };
    this.tokens.set(provider.id, fetched);
    return { key: fetched.key, secrets: fetched.secrets };
  }

  private async request(provider: StoredProvider): Promise<Token | Problem> {
    const { credential, name } = provider;
    if (credential.kind !== "token") throw new Error(`${name} fetches no token.`);
    const id = this.read(credential.id);
    const secret = this.read(credential.secret);
    if (id === undefined) return missing(name, credential.id);
    if (secret === undefined) return missing(name, credential.secret);
    const filled = Object.fromEntries(
      Object.entries(credential.body).map(([member, value]) => [
        member,
        value.replaceAll("<id>", id).replaceAll("<secret>", secret),
      ]),
    );
    const isForm = credential.send === "form";
    const url = credential.url.startsWith("/") ? provider.address.replace(/\/+$/, "") + credential.url : credential.url;
    const answer = await rawAnswer(
      {
        method: "POST",
        url,
        headers: {
          "content-type": isForm ? "application/x-www-form-urlencoded" : "application/json",
          accept: "application/json",
        },
        body: isForm ? new URLSearchParams(filled).toString() : JSON.stringify(filled),
      },
      tokenLimits(provider.limits),
      // nothing is taken out of it yet: a token may hold the id
      [],
      provider,
    );
    const from = `The token of ${name} could not be fetched from ${new URL(url).origin}${new URL(url).pathname}`;
    if (answer.problem) return problem(answer.problem.kind, `${from}: ${answer.problem.detail}`);
    if (answer.status !== 200 && answer.status !== 201)
      return problem(
        answer.status === 400 || answer.status === 401 || answer.status === 403 ? "unauthorised" : "misconfigured",
        `${from}: status ${answer.status}, ${excerpt(Scrubber.text(answer.text, [id, secret])) || "without a word"}`,
        { advice: "Check the id and the secret, and the address of the token." },
      );
    const document = parseJson(answer.text);
    const key = compilePath(credential.token).first(document);
    if (typeof key !== "string" || key === "")
      return problem("misconfigured", `${from}: the answer holds no text at ${credential.token}.`, {
        advice: "Put the JSONPath of the token right in the credentials of the provider.",
      });
    const life = credential.expires === undefined ? undefined : Number(compilePath(credential.expires).first(document));
    return {
      key,
      secrets: [key, secret],
      until: Date.now() + Math.max((Number.isFinite(life) ? (life as number) : usualLife) - margin, 1) * 1000,
    };
  }

  private run(
    provider: StoredProvider,
    { command, keepFor }: { command: string; keepFor: number },
  ): Promise<Token | Problem> {
    return new Promise((resolve) => {
      exec(command, { timeout: commandLimitMs, windowsHide: true, maxBuffer: 1024 * 1024 }, (error, stdout, stderr) => {
        const key = stdout.trim().split("\n").at(-1)?.trim() ?? "";
        const failed = (why: string) =>
          resolve(
            problem("misconfigured", `The command that prints the token of ${provider.name} ${why}.`, {
              advice: "Run it in a terminal, in the folder that the server was started in, and put it right.",
            }),
          );
        if (error?.killed) failed(`took longer than ${commandLimitMs / 1000} s`);
        else if (error)
          failed(
            `ended with ${error.code}${stderr.trim() ? `: ${excerpt(Scrubber.text(stderr, key === "" ? [] : [key]))}` : ""}`,
          );
        else if (key === "") failed("printed nothing");
        else resolve({ key, secrets: [key], until: Date.now() + keepFor * 1000 });
      });
    });
  }

  private read(secret: StoredSecret): string | undefined {
    return "variable" in secret ? keyFrom(secret.variable) : this.seal.open(secret.sealed);
  }
}

/** The extra headers of a provider, with `$NAME` read from the environment. */
export function extraHeaders({ headers }: Pick<StoredProvider, "headers">): Record<string, string> {
  return Object.fromEntries(
    Object.entries(headers).map(([name, value]) => [
      name,
      value.replace(/\$\{?([A-Z_][A-Z0-9_]*)\}?/gi, (_all, variable: string) => keyFrom(variable) ?? ""),
    ]),
  );
}

/** What the environment puts into the extra headers. */
function headerSecrets({ headers }: Pick<StoredProvider, "headers">): string[] {
  return Object.values(headers).flatMap((value) =>
    Array.from(value.matchAll(/\$\{?([A-Z_][A-Z0-9_]*)\}?/gi), ([, variable = ""]) => keyFrom(variable) ?? "").filter(
      Boolean,
    ),
  );
}

function tokenLimits(limits: Limits): Limits {
  return { ...limits, first: Math.min(limits.first, 15_000), all: Math.min(limits.all, 30_000) };
}

function missing(provider: string, secret: StoredSecret): Problem {
  if ("variable" in secret)
    return problem("misconfigured", `${provider} needs a key, and ${secret.variable} is not set.`, {
      advice: `Add the line ${secret.variable}=… to the file .env, or set it in the environment and start again.`,
    });
  return problem("misconfigured", `The key of ${provider} was sealed in another data folder and can't be opened.`, {
    advice: "Type it once more on the Providers page.",
  });
}
