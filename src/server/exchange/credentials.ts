import { LRUCache } from "lru-cache";
import { type Problem, problem } from "@/core/problem/problem";
import type { Limits } from "@/core/provider/limits";
import { argumentsIn, NotArguments } from "@/core/wire/arguments";
import { hiddenExtras, withExtras } from "@/core/wire/encode";
import { excerpt, parseJson } from "@/core/wire/json";
import { compilePath } from "@/core/wire/path";
import { isLine, keyFrom } from "../security/keys";
import { Scrubber } from "../security/scrub";
import type { Seal } from "../security/seal";
import { runCommand } from "./command";
import { addressOf, type Connection, type StoredCredential, type StoredSecret } from "./connection";
import type { Outgoing } from "./outgoing";
import { missingValue, ownValues } from "./own-values";
import { rawAnswer } from "./raw-answer";
import { signed } from "./signing";
import type { Way } from "./way";

/** What a call shows that it may be made, with everything that must never be shown. */
export type Resolved = (Shown & { key: string | undefined; problem?: undefined }) | { problem: Problem };

/** What every call of a provider carries beside its key, and the way that it goes. */
interface Shown {
  extras: Record<string, string>;
  values: Record<string, string>;
  headers: Record<string, string>;
  way: Way;
  secrets: string[];
}

type Fetched = { key: string; secrets: string[]; problem?: undefined } | { problem: Problem };

interface Token {
  key: string;
  secrets: string[];
  /** Epoch milliseconds after which it is fetched anew. */
  until: number;
}

/** Secrets that are remembered, so that they stand in no line of the log. */
const mostSeen = 1_000;

const commandLimitMs = 15_000;
/** Seconds before its end at which a token is fetched anew. */
const margin = 20;
/** Seconds that a token is kept that does not say how long it is good for. */
const usualLife = 300;

/** Resolves credentials; keeps tokens that were fetched until shortly before they end. */
export class Credentials {
  private readonly tokens = new Map<string, Token>();
  private readonly under = new Map<string, Promise<Fetched>>();
  private readonly used = new LRUCache<string, true>({ max: mostSeen });

  /** @param runsCommands whether commands that providers name may run: whoever starts this process says so */
  constructor(
    private readonly seal: Seal,
    private readonly runsCommands: boolean,
  ) {}

  /** The secrets that this process has used, for keeping them out of the log. */
  get seen(): string[] {
    return [...this.used.keys()];
  }

  /** Keeps one that another part of this process used out of the log as well. */
  saw(secret: string): void {
    this.used.set(secret, true);
  }

  /** What a call of a provider carries; a problem where that can't be had. */
  async resolve(provider: Connection): Promise<Resolved> {
    const extras: Record<string, string> = {};
    for (const [name, secret] of Object.entries(provider.extras)) {
      const value = this.read(secret);
      if (value === undefined) return { problem: missing(provider.name, secret) };
      extras[name] = value;
    }
    const shown = this.shown(provider, extras);
    const unset = missingValue(provider, shown.values);
    if (unset) return { problem: unset };
    const fetched = await this.keyOf(provider);
    if (fetched.problem) return fetched;
    const { key, secrets } = fetched;
    const all = [...secrets, ...shown.secrets];
    for (const secret of all) this.used.set(secret, true);
    const odd = [key ?? "", ...Object.values(shown.headers)].find((value) => !isLine(value));
    if (odd !== undefined) return { problem: notOneLine(provider) };
    return { ...shown, key, secrets: all };
  }

  private async keyOf(
    provider: Connection,
  ): Promise<{ key: string | undefined; secrets: string[]; problem?: undefined } | { problem: Problem }> {
    const { credential } = provider;
    if (credential.kind === "none") return { key: undefined, secrets: [] };
    if (credential.kind === "token" || credential.kind === "command") return this.token(provider);
    const secret = this.read(credential.secret);
    if (secret === undefined) return { problem: missing(provider.name, credential.secret) };
    if (credential.kind === "key") return { key: secret, secrets: [secret] };
    const key = Buffer.from(`${credential.user}:${secret}`).toString("base64");
    return { key, secrets: [secret, key] };
  }

  /** What goes along with every call: extra headers with `$NAME` and `<extra:name>` filled in, and the way through a proxy. */
  private shown(provider: Connection, extras: Record<string, string>): Shown {
    const secrets = Object.values(extras);
    const headers = Object.fromEntries(
      Object.entries(provider.headers).map(([name, value]) => [
        name,
        withExtras(value, extras).replace(/\$\{?([A-Z_][A-Z0-9_]*)\}?/gi, (_all, variable: string) => {
          const found = keyFrom(variable) ?? "";
          if (found !== "") secrets.push(found);
          return found;
        }),
      ]),
    );
    const proxyLogin = provider.proxyLogin === null ? undefined : this.seal.open(provider.proxyLogin);
    if (proxyLogin) secrets.push(proxyLogin, ...proxyLogin.split(":").slice(1));
    return {
      extras,
      values: ownValues(provider),
      headers,
      way: { proxy: provider.proxy, proxyLogin, caFile: provider.caFile },
      secrets,
    };
  }

  /** Lets go of a provider's token, since it was refused or its credential changed; says whether there was one. */
  forget(provider: Pick<Connection, "id">): boolean {
    return this.tokens.delete(provider.id);
  }

  /** A request signed by the provider's command, where it has one; a problem where that can't be had. */
  sign(provider: Connection, outgoing: Outgoing, secrets: readonly string[], signal: AbortSignal) {
    return signed(outgoing, provider, this.runsCommands, secrets, signal);
  }

  /** Whether a provider is called with a token that can be fetched anew. */
  hasToken(provider: Pick<Connection, "id">): boolean {
    return this.tokens.has(provider.id);
  }

  private async token(provider: Connection): Promise<Fetched> {
    const kept = this.tokens.get(provider.id);
    if (kept && kept.until > Date.now()) return kept;
    // several calls at once fetch one token
    let fetching = this.under.get(provider.id);
    if (!fetching) {
      fetching = this.fetch(provider).finally(() => this.under.delete(provider.id));
      this.under.set(provider.id, fetching);
    }
    return fetching;
  }

  private async fetch(provider: Connection): Promise<Fetched> {
    const { credential } = provider;
    const fetched = credential.kind === "command" ? await this.run(provider, credential) : await this.request(provider);
    if ("kind" in fetched) return { problem: fetched };
    this.tokens.set(provider.id, fetched);
    return { key: fetched.key, secrets: fetched.secrets };
  }

  private async request(provider: Connection): Promise<Token | Problem> {
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
    const url = credential.url.startsWith("/")
      ? addressOf(provider, { path: credential.url }, ownValues(provider))
      : credential.url;
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
      this.shown(provider, {}).way,
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

  private async run(
    provider: Connection,
    { command, keepFor }: { command: string; keepFor: number },
  ): Promise<Token | Problem> {
    const failed = (
      why: string,
      advice = "Run it in a terminal, in the folder that the server was started in, and put it right.",
    ) => problem("misconfigured", `The command that prints the token of ${provider.name} ${why}.`, { advice });
    if (!this.runsCommands)
      return failed("is not run", "Start with FINCH_COMMANDS=on, if commands that providers name may run here.");
    let args: ReturnType<typeof argumentsIn>;
    try {
      args = argumentsIn(command);
    } catch (error) {
      if (!(error instanceof NotArguments)) throw error;
      return failed(error.message, "Put it right in the credentials of the provider.");
    }
    const ran = await runCommand(args, { provider: provider.slug, address: provider.address }, commandLimitMs);
    const key = ran.output.trim().split("\n").at(-1)?.trim() ?? "";
    if (ran.kind === "failed") {
      const complaint = excerpt(Scrubber.text(ran.complaint.trim(), key === "" ? [] : [key]));
      return failed(complaint ? `${ran.why}: ${complaint}` : ran.why);
    }
    if (key === "") return failed("printed nothing");
    return { key, secrets: [key], until: Date.now() + keepFor * 1000 };
  }

  private read(secret: StoredSecret): string | undefined {
    return "variable" in secret ? keyFrom(secret.variable) : this.seal.open(secret.sealed);
  }
}

/** A failure with what to do about the key of a provider, where the provider did not accept it. */
export function withKeyAdvice(failure: Problem, credential: StoredCredential): Problem {
  if (failure.kind !== "unauthorised") return failure;
  return { ...failure, advice: keyAdvice(credential) };
}

function keyAdvice(credential: StoredCredential): string {
  const variables = variablesOf(credential);
  if (variables.length > 0)
    return `Check the value of ${variables.join(" and ")}, in the file .env or in the environment, and start again.`;
  switch (credential.kind) {
    case "none":
      return "It is called without a key: name one on the Providers page.";
    case "command":
      return "Check what the command of its credentials prints, on the Providers page.";
    default:
      return "The key that is sealed here is not the right one: type it once more on the Providers page.";
  }
}

/** The extra headers of a provider as they are shown: `$NAME` as it is written, further secrets hidden. */
export function shownHeaders({ headers, extras }: Pick<Connection, "headers" | "extras">): Record<string, string> {
  const hidden = hiddenExtras(Object.keys(extras));
  return Object.fromEntries(Object.entries(headers).map(([name, value]) => [name, withExtras(value, hidden)]));
}

function notOneLine({ name, credential }: Connection): Problem {
  const where = variablesOf(credential).join(" or ") || "what its credentials or extra headers hold";
  return problem(
    "misconfigured",
    `${name} can't be called: ${where} has a line break or a character that no header can carry.`,
    {
      advice: "Put it into one line, without quotes around it, and send the message again.",
    },
  );
}

/** The environment variables that a credential is read from. */
export function variablesOf(credential: StoredCredential): string[] {
  const secrets =
    credential.kind === "token"
      ? [credential.id, credential.secret]
      : credential.kind === "key" || credential.kind === "basic"
        ? [credential.secret]
        : [];
  return secrets.flatMap((secret) => ("variable" in secret ? [secret.variable] : []));
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

/** A parameter that has `credentials`. */
export interface HasCredentials {
  credentials: Credentials;
}
