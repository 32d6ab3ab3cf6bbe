import { LRUCache } from "lru-cache";
import type { Ability, Model, ModelVersion } from "@/core/provider/model";
import { placesFor } from "@/core/provider/places";
import type { ProbeReport } from "@/core/provider/probe";
import { type Calibration, calibrationSchema, learned, uncalibrated } from "@/core/tokens/calibration";
import { pictureTokensSchema } from "@/core/tokens/picture-tokens";
import type { PiecePlaces } from "@/core/wire/places";
import { type CompiledProfile, compileProfile } from "@/core/wire/profile";
import type { Database } from "../database/database";
import { slugOf } from "../database/functions";
import type { Connection, ConnectionSettings } from "../exchange/connection";
import { newId } from "../ground/id";
import type { Counted } from "../making/types";

/** A provider as it is stored. */
export interface StoredProvider extends Connection {
  probe: ProbeReport | null;
}

/** A model as it is stored, with what was learned of how its provider counts. */
export interface StoredModel
  extends Required<Omit<Model, "can" | "pictureTokens">>,
    Pick<Model, "can" | "pictureTokens"> {
  calibration: Calibration;
}

interface ProviderRow {
  id: string;
  slug: string;
  name: string;
  address: string;
  profile: string;
  credential: string;
  headers: string;
  extras: string;
  own_values: string;
  signing: string | null;
  limits: string;
  retries: number;
  records: number;
  at_once: number | null;
  proxy: string | null;
  proxy_login: string | null;
  ca_file: string | null;
  probe: string | null;
}

interface ModelRow {
  name: string;
  window: number;
  input_price: number;
  cached_price: number | null;
  write_price: number | null;
  thought_price: number | null;
  output_price: number;
  is_price_unset: number;
  is_window_guessed: number;
  currency: string;
  is_on: number;
  can: string;
  picture_tokens: string | null;
  calibration: string | null;
}

/** Versions of a model that are kept before the present one. */
const mostVersions = 20;
/** Profiles that are kept compiled. */
const mostCompiled = 100;

/** Providers and their models. */
export class ProviderStore {
  private readonly compiled = new LRUCache<string, CompiledProfile>({ max: mostCompiled });
  private readonly sql;

  constructor(private readonly database: Database) {
    this.sql = {
      all: database.prepare<[], ProviderRow>("SELECT * FROM providers ORDER BY created_at, id"),
      byId: database.prepare<[string], ProviderRow>("SELECT * FROM providers WHERE id = ?"),
      bySlug: database.prepare<[string], ProviderRow>("SELECT * FROM providers WHERE slug = ?"),
      isTaken: database.prepare<[{ slug: string }]>(
        "SELECT 1 FROM providers WHERE slug = @slug UNION ALL SELECT 1 FROM provider_stones WHERE slug = @slug",
      ),
      byName: database.prepare<[string], ProviderRow>("SELECT * FROM providers WHERE name = ?"),
      insert: database.prepare(
        `INSERT INTO providers (id, slug, name, address, profile, credential, headers, extras, own_values, signing, limits, retries, records, at_once, proxy, proxy_login, ca_file, created_at)
         VALUES (@id, @slug, @name, @address, @profileText, @credential, @headers, @extras, @ownValues, @signing, @limits, @retries, @records, @atOnce, @proxy, @proxyLogin, @caFile, @now)`,
      ),
      update: database.prepare(
        `UPDATE providers SET name = @name, address = @address, profile = @profileText, credential = @credential,
           headers = @headers, extras = @extras, own_values = @ownValues, signing = @signing, limits = @limits, retries = @retries, records = @records, at_once = @atOnce, proxy = @proxy,
           proxy_login = @proxyLogin, ca_file = @caFile WHERE id = @id`,
      ),
      setProbe: database.prepare("UPDATE providers SET probe = ? WHERE id = ?"),
      delete: database.prepare("DELETE FROM providers WHERE id = ?"),
      models: database.prepare<[string], ModelRow>("SELECT * FROM models WHERE provider_id = ? ORDER BY name"),
      model: database.prepare<[string, string], ModelRow>("SELECT * FROM models WHERE provider_id = ? AND name = ?"),
      putModel: database.prepare(
        `INSERT INTO models (provider_id, name, window, input_price, output_price, cached_price, write_price, thought_price,
           currency, is_on, can, picture_tokens, is_price_unset, is_window_guessed)
         VALUES (@provider, @name, @window, @input, @output, @cachedInput, @cacheWrite, @thought, @currency, @isOn, @can,
           @pictureTokens, @isPriceUnset, @isWindowGuessed)
         ON CONFLICT DO UPDATE SET window = excluded.window, input_price = excluded.input_price,
           output_price = excluded.output_price, cached_price = excluded.cached_price, write_price = excluded.write_price,
           thought_price = excluded.thought_price, currency = excluded.currency, is_on = excluded.is_on, can = excluded.can,
           picture_tokens = excluded.picture_tokens,
           is_price_unset = excluded.is_price_unset, is_window_guessed = excluded.is_window_guessed`,
      ),
      dropModel: database.prepare("DELETE FROM models WHERE provider_id = ? AND name = ?"),
      versions: database.prepare<[string, string], { version: string; since: number }>(
        "SELECT version, since FROM model_versions WHERE provider_id = ? AND model = ? ORDER BY since DESC LIMIT 2",
      ),
      hearVersion: database.prepare(
        "INSERT OR REPLACE INTO model_versions (provider_id, model, since, version) VALUES (?, ?, ?, ?)",
      ),
      forgetVersions: database.prepare(
        `DELETE FROM model_versions WHERE provider_id = @provider AND model = @model AND since < (
           SELECT since FROM model_versions WHERE provider_id = @provider AND model = @model
           ORDER BY since DESC LIMIT 1 OFFSET @most)`,
      ),
      cases: database
        .prepare<[string], string>("SELECT answer FROM provider_cases WHERE provider_id = ? ORDER BY place")
        .pluck(),
      dropCases: database.prepare("DELETE FROM provider_cases WHERE provider_id = ?"),
      addCase: database.prepare("INSERT INTO provider_cases (provider_id, place, answer) VALUES (?, ?, ?)"),
      calibrate: database.prepare("UPDATE models SET calibration = ? WHERE provider_id = ? AND name = ?"),
    };
  }

  all(): StoredProvider[] {
    return this.sql.all.all().map((row) => this.read(row));
  }

  byId(id: string): StoredProvider | undefined {
    const row = this.sql.byId.get(id);
    return row && this.read(row);
  }

  /** The provider that revisions know by a name. */
  bySlug(slug: string): StoredProvider | undefined {
    const row = this.sql.bySlug.get(slug);
    return row && this.read(row);
  }

  /** Whether a lasting name was given out, if only to a provider that is gone. */
  isTaken(slug: string): boolean {
    return this.sql.isTaken.get({ slug }) !== undefined;
  }

  byName(name: string): StoredProvider | undefined {
    const row = this.sql.byName.get(name);
    return row && this.read(row);
  }

  /** @param slug the lasting name that it has elsewhere; it must be free. One is made of its name without it. */
  add(provider: ConnectionSettings, now: number, slug = this.freeSlug(provider.name)): string {
    const id = newId("pro");
    this.sql.insert.run({ ...columnsOf(provider), id, slug, now });
    return id;
  }

  change(id: string, provider: ConnectionSettings): void {
    this.sql.update.run({ ...columnsOf(provider), id });
  }

  setProbe(id: string, report: ProbeReport): void {
    this.sql.setProbe.run(JSON.stringify(report), id);
  }

  delete(id: string): void {
    this.sql.delete.run(id);
  }

  models(provider: string): StoredModel[] {
    return this.sql.models.all(provider).map(readModel);
  }

  /** All providers, each with its models and what becomes of pieces that they are sent. */
  withModels(): (StoredProvider & { models: (StoredModel & { places: PiecePlaces })[] })[] {
    return this.all().map((provider) => {
      const models = this.models(provider.id).map((model) => ({
        ...model,
        places: placesFor(provider.profile, model),
      }));
      return { ...provider, models };
    });
  }

  model(provider: string, name: string): StoredModel | undefined {
    const row = this.sql.model.get(provider, name);
    return row && readModel(row);
  }

  /** Stores these models; what was learned of those that were there is kept. */
  putModels(provider: string, models: Model[]): void {
    this.database
      .transaction(() => {
        for (const { name, window, isWindowGuessed = false, price, isOn = true, can, pictureTokens } of models)
          this.sql.putModel.run({
            provider,
            name,
            window,
            cachedInput: null,
            cacheWrite: null,
            thought: null,
            ...pricesIn(price),
            isPriceUnset: price.isUnset ? 1 : 0,
            isWindowGuessed: isWindowGuessed ? 1 : 0,
            isOn: isOn ? 1 : 0,
            can: JSON.stringify(can ?? null),
            pictureTokens: pictureTokens ? JSON.stringify(pictureTokens) : null,
          });
      })
      .immediate();
  }

  /** Stores these models and drops all others. */
  setModels(provider: string, models: Model[]): void {
    const kept = new Set(models.map(({ name }) => name));
    this.database
      .transaction(() => {
        for (const { name } of this.models(provider)) if (!kept.has(name)) this.sql.dropModel.run(provider, name);
        this.putModels(provider, models);
      })
      .immediate();
  }

  /** What a provider calls the model that answers under a name, since when, and as what it did before; null where it never said. */
  versionOf(provider: string, model: string): ModelVersion | null {
    const [now, before] = this.sql.versions.all(provider, model);
    return now ? { ...now, ...(before ? { before: before.version } : {}) } : null;
  }

  /** Takes note of what a provider calls the model that answered under a name, where that has changed. */
  hearVersion(provider: string, model: string, version: string, now: number): void {
    if (this.sql.versions.get(provider, model)?.version === version) return;
    this.sql.hearVersion.run(provider, model, now, version);
    this.sql.forgetVersions.run({ provider, model, most: mostVersions });
  }

  /** Answers that its profile has to read, each as it came. */
  cases(provider: string): string[] {
    return this.sql.cases.all(provider);
  }

  /** Keeps these answers and no others. */
  setCases(provider: string, answers: readonly string[]): void {
    this.database
      .transaction(() => {
        this.sql.dropCases.run(provider);
        for (const [place, answer] of answers.entries()) this.sql.addCase.run(provider, place, answer);
      })
      .immediate();
  }

  /** Learns from what a provider counted of texts that are at hand. */
  learn(provider: string, model: string, counted: readonly Counted[]): void {
    const before = this.model(provider, model)?.calibration;
    if (!before) return;
    const after = counted.reduce((so, { holding, tokens }) => learned(so, holding, tokens), before);
    if (after !== before) this.sql.calibrate.run(JSON.stringify(after), provider, model);
  }

  /** A lasting name that no provider has, and none ever had. */
  private freeSlug(name: string): string {
    const slug = slugOf(name);
    for (let number = 1; ; number++) {
      const tried = number === 1 ? slug : `${slug}-${number}`;
      if (!this.sql.isTaken.get({ slug: tried })) return tried;
    }
  }

  private read(row: ProviderRow): StoredProvider {
    let profile = this.compiled.get(row.profile);
    if (!profile) {
      profile = compileProfile(JSON.parse(row.profile));
      this.compiled.set(row.profile, profile);
    }
    const { id, slug, name, address, retries, proxy } = row;
    return {
      id,
      slug,
      name,
      address,
      profile,
      profileText: row.profile,
      credential: JSON.parse(row.credential),
      headers: JSON.parse(row.headers),
      extras: JSON.parse(row.extras),
      values: JSON.parse(row.own_values),
      signing: row.signing,
      limits: JSON.parse(row.limits),
      retries,
      records: row.records === 1,
      atOnce: row.at_once,
      proxy,
      proxyLogin: row.proxy_login,
      caFile: row.ca_file,
      probe: row.probe === null ? null : JSON.parse(row.probe),
    };
  }
}

/** What SQLite can bind of prices. */
function pricesIn({ isUnset: _isUnset, ...price }: Model["price"]) {
  return price;
}

function columnsOf({
  name,
  address,
  profileText,
  credential,
  headers,
  extras,
  values,
  signing,
  limits,
  retries,
  records,
  atOnce,
  proxy,
  proxyLogin,
  caFile,
}: ConnectionSettings) {
  const json = {
    credential: JSON.stringify(credential),
    headers: JSON.stringify(headers),
    extras: JSON.stringify(extras),
    ownValues: JSON.stringify(values),
    limits: JSON.stringify(limits),
    records: records ? 1 : 0,
  };
  return { name, address, profileText, signing, retries, atOnce, proxy, proxyLogin, caFile, ...json };
}

function readModel(row: ModelRow): StoredModel {
  return {
    name: row.name,
    window: row.window,
    price: {
      input: row.input_price,
      output: row.output_price,
      ...(row.cached_price === null ? {} : { cachedInput: row.cached_price }),
      ...(row.write_price === null ? {} : { cacheWrite: row.write_price }),
      ...(row.thought_price === null ? {} : { thought: row.thought_price }),
      currency: row.currency,
      ...(row.is_price_unset ? { isUnset: true as const } : {}),
    },
    isWindowGuessed: row.is_window_guessed === 1,
    isOn: row.is_on === 1,
    can: (JSON.parse(row.can) as Ability[] | null) ?? undefined,
    ...(row.picture_tokens === null
      ? {}
      : { pictureTokens: pictureTokensSchema.parse(JSON.parse(row.picture_tokens)) }),
    calibration: row.calibration === null ? uncalibrated : calibrationSchema.parse(JSON.parse(row.calibration)),
  };
}

/** A parameter that has `providers`. */
export interface HasProviders {
  providers: ProviderStore;
}
