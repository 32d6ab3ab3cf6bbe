import { expect, it } from "vitest";
import { unstatedIn } from "./unstated";

it("a fact that no text states is told of, once; one that is denied, or said otherwise, is not", () => {
  const given = ["Boat: Teal; Leaves: 9:40; To: Tansy Holm", "A bicycle costs €2.00."];
  expect(unstatedIn("Teal leaves at twenty to ten [boats 6]. A bicycle is 2 euros.", given)).toEqual([]);
  expect(unstatedIn("It leaves at 17:30, so be there by 17:30, not at 16:00.", given)).toEqual(["17:30"]);
});
