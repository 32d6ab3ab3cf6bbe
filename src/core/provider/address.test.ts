import { describe, expect, it } from "vitest";
import { filledAddress, hostIn, isAddress, valuesIn } from "./address";

describe("an address with values in it", () => {
  const address = "https://<value:region>.ferry.test:8443/<value:project>/v1";

  it("is one, names them, and has a host", () => {
    expect(isAddress(address)).toBe(true);
    expect(valuesIn(address)).toEqual(["region", "project"]);
    expect(hostIn(address)).toBe("<value:region>.ferry.test:8443");
    for (const none of ["<value:region>.ferry.test", "ftp://x.test", "https://<region>.x.test", "https://", ""])
      expect(isAddress(none)).toBe(false);
  });

  it("is filled, and leads nowhere else", () => {
    expect(filledAddress(address, { region: "north-1", project: "p_7" })).toBe(
      "https://north-1.ferry.test:8443/p_7/v1",
    );
    expect(filledAddress("http://127.0.0.1:1", {})).toBe("http://127.0.0.1:1");
    for (const region of ["", "evil.test/", "a@evil.test", "a?b", "a#b", "a b", "a\\b"])
      expect(filledAddress(address, { region, project: "p" })).toBeUndefined();
    expect(filledAddress(address, { region: "north" })).toBeUndefined();
  });
});
