import type { PiecePlaces } from "../wire/places";
import type { CompiledProfile } from "../wire/profile";
import type { Model } from "./model";

/** What becomes of pieces that a model is sent: by the profile of its provider, and by what is known of the model. */
export function placesFor(
  profile: Pick<CompiledProfile, "placesFor">,
  { name, can, pictureTokens }: Pick<Model, "name" | "can" | "pictureTokens">,
): PiecePlaces {
  const places = profile.placesFor(name);
  const isBlind = places.picture === "taken" && can !== undefined && !can.includes("pictures");
  return { ...places, ...(isBlind ? { picture: "unseen" } : {}), pictureTokens };
}

/** The models that see pictures, and that apps are offered, each with the name of its provider. */
export function modelsThatSee(
  providers: readonly { name: string; models: readonly (Model & { places: PiecePlaces })[] }[],
): string[] {
  return providers.flatMap(({ name, models }) =>
    models
      .filter(({ isOn, can, places }) => isOn !== false && can?.includes("pictures") && places.picture === "taken")
      .map((model) => `${model.name} on ${name}`),
  );
}
