import { refuse } from "../ground/refusal";
import type { HasProviders } from "../providers/provider-store";
import { providerAt } from "../providers/wiring";
import type { HasApps } from "./app-store";

/** Deletes a provider that no app names. @throws {Refusal} `conflict` */
export function deleteProvider(boot: HasApps & HasProviders, id: string): void {
  const { name, slug } = providerAt(boot, id);
  const users = boot.apps.naming(slug);
  if (users.length > 0)
    refuse("conflict", `${name} is still used by ${users.join(", ")}.`, {
      advice:
        "Look at the model, those to go on to and the one that sums up in the draft, the live revision and the preview, and at the models that callers may choose.",
    });
  boot.providers.delete(id);
}
