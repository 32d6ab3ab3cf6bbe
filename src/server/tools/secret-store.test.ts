import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { plainContent } from "../test/conversation";
import { testFolder } from "../test/folder";

let folder: ReturnType<typeof testFolder>;
beforeEach(() => {
  folder = testFolder();
});
afterEach(() => {
  vi.unstubAllEnvs();
  folder.remove();
});
const made = (name: string) => folder.home.apps.make(name, plainContent, 1).id;

describe("the secrets of an app", () => {
  it("are read from their variables when they are needed, or opened, and say what is missing", () => {
    const { secrets } = folder.home;
    const app = made("Quay Desk");
    expect(secrets.read(app, "QUAY_KEY")).toEqual({ missing: "the app is given no QUAY_KEY" });
    secrets.give(app, "QUAY_KEY", { variable: "HARBOUR_KEY" });
    expect(secrets.read(app, "QUAY_KEY")).toEqual({ missing: "the variable HARBOUR_KEY is not set here" });
    vi.stubEnv("HARBOUR_KEY", "from-the-environment");
    expect(secrets.read(app, "QUAY_KEY")).toEqual({ value: "from-the-environment" });
    vi.stubEnv("HARBOUR_KEY", "two\nlines");
    expect(secrets.read(app, "QUAY_KEY")).toEqual({
      missing: expect.stringContaining("HARBOUR_KEY holds is not one line"),
    });
    secrets.give(app, "QUAY_KEY", { value: "typed-once" });
    expect(secrets.read(app, "QUAY_KEY")).toEqual({ value: "typed-once" });
  });

  it("are sealed where they were typed: no byte of the folder holds them", () => {
    const { secrets, database } = folder.home;
    const app = made("Quay Desk");
    secrets.give(app, "QUAY_KEY", { value: "typed-once" });
    const stored = database.prepare("SELECT secret FROM app_secrets").pluck().get();
    expect(stored).toMatch(/^\{"sealed":"/);
    expect(stored).not.toContain("typed-once");
  });

  it("are an app's own, go along with a copy, and go with it", () => {
    const { secrets, database } = folder.home;
    const [one, other] = [made("Quay Desk"), made("Harbour Desk")];
    secrets.give(one, "QUAY_KEY", { value: "typed-once" });
    expect(secrets.of(other)).toEqual([]);
    secrets.copy(one, other);
    expect(secrets.read(other, "QUAY_KEY")).toEqual({ value: "typed-once" });
    expect([secrets.take(one, "QUAY_KEY"), secrets.take(one, "QUAY_KEY")]).toEqual([true, false]);
    expect(secrets.read(other, "QUAY_KEY")).toEqual({ value: "typed-once" });
    folder.home.apps.leave(other);
    folder.home.apps.deleteLeft();
    expect(database.prepare("SELECT count(*) FROM app_secrets").pluck().get()).toBe(0);
  });
});
