import { describe, expect, it } from "vitest";
import { piecesOf } from "../conversation/pieces";
import { encode } from "./encode";
import { fitsSetting, ownSettingSchema } from "./own-settings";
import { compileProfile, ProfileError } from "./profile";
import namedEvents from "./profiles/named-events.json";

const effort = ownSettingSchema.parse({
  name: "effort",
  says: "thinks",
  type: "choice",
  choices: ["briefly", "long"],
  models: ["deep-*"],
});
const profile = {
  ...namedEvents,
  settings: [effort],
  request: { ...namedEvents.request, body: { effort: "<own:effort>", said: { "<each>": "messages", as: "<text>" } } },
};

function bodyOf(model: string, own?: Record<string, string | number | boolean>) {
  const messages = [{ role: "visitor" as const, pieces: piecesOf("Hello") }];
  const call = { model, stream: true, messages, settings: own ? { own } : {} };
  return JSON.parse(encode(compileProfile(profile), call).body ?? "");
}

describe("a setting of an API's own", () => {
  it("is sent to the models that have it, and to no other", () => {
    expect(bodyOf("deep-one", { effort: "long" })).toEqual({ effort: "long", said: ["Hello"] });
    expect(bodyOf("swift", { effort: "long" })).toEqual({ said: ["Hello"] });
    expect(bodyOf("deep-one")).toEqual({ said: ["Hello"] });
  });

  it("is left out where its value is none of it, or it is that of another provider", () => {
    expect(bodyOf("deep-one", { effort: "for ever", tier: "gold" })).toEqual({ said: ["Hello"] });
  });

  it.each([
    [{ type: "switch" }, [true, false], ["yes", 1]],
    [{ type: "number", from: 1, to: 5 }, [1, 5], [0, 6, "3", true]],
    [{ type: "text" }, ["gold"], [1, false]],
    [{ type: "choice", choices: ["a", "b"] }, ["a"], ["c", 1]],
  ])("of %j takes %j, and not %j", (kind, fit, unfit) => {
    const setting = ownSettingSchema.parse({ name: "x", says: "x", ...kind });
    expect(fit.map((value) => fitsSetting(setting, value))).toEqual(fit.map(() => true));
    expect(unfit.map((value) => fitsSetting(setting, value))).toEqual(unfit.map(() => false));
  });

  it("has choices where it is one, and is declared where a request wants it", () => {
    const of = (change: object) => () => compileProfile({ ...profile, settings: [{ ...effort, ...change }] });
    expect(of({ choices: undefined })).toThrow(ProfileError);
    expect(of({ type: "text" })).toThrow(/settings\[0\]\.choices: goes with a choice/);
    expect(of({ name: "zeal" })).toThrow(/<own:effort> is declared nowhere/);
  });
});
