import { describe, expect, it } from "vitest";
import { factsIn } from "@/core/comparing/facts/facts";
import { factWords } from "./fact-words";

const wordsIn = (text: string) => factsIn(text).map((fact) => factWords(fact).what);

describe("a fact in words", () => {
  it("is written one way, however it was said", () => {
    expect(wordsIn("4,00 €, 0.5 euros")).toEqual(["€4.00", "€0.50"]);
    expect(wordsIn("at twenty to ten, at 5:30 pm")).toEqual(["9:40", "17:30"]);
    expect(wordsIn("on 01.06.2025, on June 1st, in May 2025, in February, since 1987, on Sundays")).toEqual([
      "1 June 2025",
      "1 June",
      "May 2025",
      "February",
      "1987",
      "Sunday",
    ]);
  });

  it("is a figure or a name as it was said, without the marks of Markdown", () => {
    expect(wordsIn("Four **bicycle** places at Tansy  Holm")).toEqual(["four bicycle places", "Tansy Holm"]);
  });

  it("says what a figure counts where that was said before", () => {
    expect(
      wordsIn("The 8:10 takes four bicycles, the 9:40 eight. It is 20 minutes to Brindle and 55 to Tansy Holm."),
    ).toEqual(["8:10", "four bicycles", "9:40", "eight bicycles", "20 minutes", "Brindle", "55 min", "Tansy Holm"]);
  });

  it("says what is denied", () => {
    expect(wordsIn("No boats run on Sundays.")).toEqual(["not Sunday"]);
  });
});
