import type { NamedSecret } from "@/contract/secrets";
import { secretName } from "@/core/tools/secrets";
import type { StoredApp } from "../apps/app-store";
import { refuse } from "../ground/refusal";
import type { HasSecrets } from "../tools/secret-store";
import { shownSecret } from "./providers";

/** Secrets that an app may be given. */
const mostSecrets = 64;

/** The secrets of an app as they are shown. */
export function listedSecrets({ secrets }: HasSecrets, { id }: StoredApp): { secrets: NamedSecret[] } {
  return { secrets: secrets.of(id).map(({ name, secret }) => ({ name, secret: shownSecret(secret) })) };
}

/** Gives an app a secret. @throws {Refusal} */
export function giveSecret(
  { secrets }: HasSecrets,
  { id }: StoredApp,
  name: string,
  secret: { variable: string } | { value: string },
): NamedSecret {
  if (!secretName.test(name))
    refuse("bad-request", `${name.slice(0, 80)} is no name of a secret.`, {
      advice: "Name it with letters, digits and low lines, as it stands in the header after the $.",
    });
  const others = secrets.of(id).filter((each) => each.name !== name);
  if (others.length >= mostSecrets)
    refuse("bad-request", `The app has ${mostSecrets} secrets, which is as many as it may.`, {
      advice: "Take one away that no tool needs.",
    });
  return { name, secret: shownSecret(secrets.give(id, name, secret)) };
}

/** Takes a secret away from an app. @throws {Refusal} */
export function takeSecret({ secrets }: HasSecrets, { id }: StoredApp, name: string): void {
  if (!secrets.take(id, name)) refuse("not-found", `The app has no secret ${name.slice(0, 80)}.`);
}
