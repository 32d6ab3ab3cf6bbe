import { expect, it } from "vitest";
import { providerAddress, providerPlaceIn } from "./provider-parts";

it("the address of a part of a provider leads there, and says the way back", () => {
  const place = { provider: "Reed & bed", part: "key", app: "quay-desk", conversation: "con_1" } as const;
  const address = providerAddress(place);
  expect(providerPlaceIn(new URLSearchParams(address.split("?")[1]))).toEqual(place);
  expect(providerPlaceIn(new URLSearchParams("open=Reedbed&part=nothing"))).toMatchObject({ part: "call" });
  expect(providerPlaceIn(new URLSearchParams(""))).toBeUndefined();
});
