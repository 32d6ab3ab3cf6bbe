import type { Limits, Model } from "@/contract/providers";
import { type Calibration, calibrate } from "@/core/tokens/calibration";
import { type CompiledProfile, compileProfile } from "@/core/wire/profile";
import type { Database } from "../database/database";
import { newId } from "../id";

/** A provider as it is stored. */
export interface StoredProvider {
  id: string;
  name: string;
  address: string;
  profile: CompiledProfile;
  /** The profile's JSON, as stored. */
  profileText: string;
  keyVariable: string | null;
  limits: Limits;
}

/** A model as it is stored, with what was learned of how its provider counts. */
export interface StoredModel extends Model {
  calibration: Calibration;
}

interface ProviderRow {
  id: string;
  name: string;
  address: string;
  profile: string;
  key_variable: string | null;
  limits: string;
}

interface ModelRow {
  name: string;
  window: number;
  input_price: number;
  output_price: number;
  currency: string;
  calibration_ratio: number;
  calibration_calls: number;
}

/** Providers and their models. */
export class ProviderStore {
  private readonly compiled = new Map<string, CompiledProfile>();
  private readonly sql;

  constructor(private readonly database: Database) {
    this.sql = {
      all: database.prepare<[], ProviderRow>("SELECT * FROM providers ORDER BY created_at, id"),
      byId: database.prepare<[string], ProviderRow>("SELECT * FROM providers WHERE id = ?"),
      byName: database.prepare<[string], ProviderRow>("SELECT * FROM providers WHERE name = ?"),
      insert: database.prepare(
        "INSERT INTO providers (id, name, address, profile, key_variable, limits, created_at) VALUES (@id, @name, @address, @profile, @keyVariable, @limits, @now)",
      ),
      update: database.prepare(
        "UPDATE providers SET address = @address, key_variable = @keyVariable, limits = @limits WHERE id = @id",
      ),
      delete: database.prepare("DELETE FROM providers WHERE id = ?"),
      models: database.prepare<[string], ModelRow>("SELECT * FROM models WHERE provider_id = ? ORDER BY name"),
      model: database.prepare<[string, string], ModelRow>("SELECT * FROM models WHERE provider_id = ? AND name = ?"),
      putModel: database.prepare(
        `INSERT INTO models (provider_id, name, window, input_price, output_price, currency)
         VALUES (@provider, @name, @window, @input, @output, @currency)
         ON CONFLICT DO UPDATE SET window = excluded.window, input_price = excluded.input_price,
           output_price = excluded.output_price, currency = excluded.currency`,
      ),
      calibrate: database.prepare(
        "UPDATE models SET calibration_ratio = ?, calibration_calls = ? WHERE provider_id = ? AND name = ?",
      ),
    };
  }

  all(): StoredProvider[] {
    return this.sql.all.all().map((row) => this.read(row));
  }

  byId(id: string): StoredProvider | undefined {
    const row = this.sql.byId.get(id);
    return row && this.read(row);
  }

  byName(name: string): StoredProvider | undefined {
    const row = this.sql.byName.get(name);
    return row && this.read(row);
  }

  add(
    provider: { name: string; address: string; profile: string; keyVariable: string | null; limits: Limits },
    now: number,
  ): string {
    const id = newId("pro");
    this.sql.insert.run({ ...provider, id, limits: JSON.stringify(provider.limits), now });
    return id;
  }

  change(
    id: string,
    { address, keyVariable, limits }: Pick<StoredProvider, "address" | "keyVariable" | "limits">,
  ): void {
    this.sql.update.run({ id, address, keyVariable, limits: JSON.stringify(limits) });
  }

  delete(id: string): void {
    this.sql.delete.run(id);
  }

  models(provider: string): StoredModel[] {
    return this.sql.models.all(provider).map(readModel);
  }

  model(provider: string, name: string): StoredModel | undefined {
    const row = this.sql.model.get(provider, name);
    return row && readModel(row);
  }

  putModels(provider: string, models: Model[]): void {
    this.database.transaction(() => {
      for (const { name, window, price } of models) this.sql.putModel.run({ provider, name, window, ...price });
    })();
  }

  /** Learns from a call whose tokens were estimated and then reported. */
  learn(provider: string, model: string, estimated: number, reported: number): void {
    const stored = this.model(provider, model);
    if (!stored) return;
    const { ratio, calls } = calibrate(stored.calibration, estimated, reported);
    this.sql.calibrate.run(ratio, calls, provider, model);
  }

  private read(row: ProviderRow): StoredProvider {
    let profile = this.compiled.get(row.profile);
    if (!profile) {
      profile = compileProfile(JSON.parse(row.profile));
      this.compiled.set(row.profile, profile);
    }
    const { id, name, address } = row;
    return {
      id,
      name,
      address,
      profile,
      profileText: row.profile,
      keyVariable: row.key_variable,
      limits: JSON.parse(row.limits),
    };
  }
}

function readModel(row: ModelRow): StoredModel {
  return {
    name: row.name,
    window: row.window,
    price: { input: row.input_price, output: row.output_price, currency: row.currency },
    calibration: { ratio: row.calibration_ratio, calls: row.calibration_calls },
  };
}

/** The URL of a path at a provider. */
export function addressOf({ address }: Pick<StoredProvider, "address">, { path }: { path: string }): string {
  return address.replace(/\/+$/, "") + path;
}
