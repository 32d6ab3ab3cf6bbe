import type { Database } from "../database/database";
import type { StoredSecret } from "../exchange/connection";
import { isLine, keyFrom } from "../security/keys";
import type { Seal } from "../security/seal";

/** A secret of an app, by the name that headers of its tools have for it. */
export interface NamedSecret {
  name: string;
  secret: StoredSecret;
}

/** A secret as it is needed; or why it can't be had. */
export type Had = { value: string } | { missing: string };

/**
 * What an app's tools may carry in their headers. A content only names secrets; where they are from is said here, by whoever
 * works at this bench. So a bundle that is handed on gives nothing away, and one that is taken in gets at nothing.
 */
export class SecretStore {
  private readonly sql;

  constructor(
    database: Database,
    private readonly seal: Seal,
  ) {
    this.sql = {
      all: database.prepare<[string], { name: string; secret: string }>(
        "SELECT name, secret FROM app_secrets WHERE app_id = ? ORDER BY name",
      ),
      one: database
        .prepare<[string, string], string>("SELECT secret FROM app_secrets WHERE app_id = ? AND name = ?")
        .pluck(),
      give: database.prepare("INSERT OR REPLACE INTO app_secrets (app_id, name, secret) VALUES (?, ?, ?)"),
      take: database.prepare("DELETE FROM app_secrets WHERE app_id = ? AND name = ?"),
      copy: database.prepare("INSERT INTO app_secrets SELECT ?, name, secret FROM app_secrets WHERE app_id = ?"),
    };
  }

  of(app: string): NamedSecret[] {
    return this.sql.all.all(app).map(({ name, secret }) => ({ name, secret: JSON.parse(secret) }));
  }

  give(app: string, name: string, secret: { variable: string } | { value: string }): StoredSecret {
    const stored = "variable" in secret ? { variable: secret.variable } : { sealed: this.seal.close(secret.value) };
    this.sql.give.run(app, name, JSON.stringify(stored));
    return stored;
  }

  /** Takes one away; false where there is none. */
  take(app: string, name: string): boolean {
    return this.sql.take.run(app, name).changes > 0;
  }

  /** Gives an app all those of another. */
  copy(from: string, to: string): void {
    this.sql.copy.run(to, from);
  }

  /** The value of one, read when it is needed. */
  read(app: string, name: string): Had {
    const stored = this.sql.one.get(app, name);
    if (stored === undefined) return { missing: `the app is given no ${name}` };
    const secret: StoredSecret = JSON.parse(stored);
    if ("variable" in secret) {
      const { variable } = secret;
      const value = keyFrom(variable);
      if (value === undefined) return { missing: `the variable ${variable} is not set here` };
      return isLine(value) ? { value } : { missing: `what ${variable} holds is not one line, as a header needs` };
    }
    const value = this.seal.open(secret.sealed);
    return value === undefined ? { missing: `${name} was sealed in another data folder` } : { value };
  }
}

/** A parameter that has `secrets`. */
export interface HasSecrets {
  secrets: SecretStore;
}
