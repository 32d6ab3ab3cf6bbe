import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { answer } from "./reply";
import { factsOf, summaryOf } from "./summary";

const record = `Ivo: Hello there. We should meet on Tuesday at 10:00.
Maren: Fine, really. I will bring 12 candles.
Ivo: No, sorry, on Wednesday at 11:00.
Maren: What a day it was.
Ivo: We decided that the walk costs €3.`;

describe("a summary", () => {
  it("keeps names, times, numbers and decisions, and leaves out what was put right and what says nothing", () => {
    const text = summaryOf(record, 40);
    for (const fact of ["Maren", "Wednesday", "11:00", "12 candles", "€3"]) expect(text).toContain(fact);
    expect(text).not.toMatch(/Tuesday|10:00|What a day/);
  });

  it("gives up words before facts where there is little room", () => {
    const text = summaryOf(record, 16);
    expect(text.split(/\s+/).length).toBeLessThanOrEqual(16);
    for (const fact of ["Wednesday", "11:00", "12 candles", "€3"]) expect(text).toContain(fact);
  });

  it("is in whole sentences where there is room for them, also where a part of one was put right", () => {
    const text = summaryOf(
      `Visitor: My brother Jonas and my dog Skip come along, and we are on the 9:40.
App: Noted: Jonas and Skip.
Visitor: No, sorry, on the 11:10.
Visitor: Nothing else is to be changed, and the two cabins stay as they are.`,
      80,
    );
    for (const fact of ["Jonas", "Skip", "11:10", "two cabins"]) expect(text).toContain(fact);
    expect(text).not.toContain("9:40");
    expect(text).toContain("My brother Jonas and my dog Skip come along.");
    expect(text).toContain("Nothing else is to be changed, and the two cabins stay as they are.");
  });

  it("is never longer than asked, and says nothing that was not there", () => {
    const words = fc.constantFrom(
      "Ivo",
      "meets",
      "Maren",
      "at",
      "9:40",
      "on",
      "Friday",
      "with",
      "two",
      "dogs",
      "for",
      "€5",
      "no",
      "sorry",
      ".",
      "?",
      "\n",
      "Ada:",
    );
    fc.assert(
      fc.property(fc.array(words, { maxLength: 80 }), fc.integer({ min: 1, max: 40 }), (said, most) => {
        const text = said.join(" ");
        const sum = summaryOf(text, most);
        expect(sum.split(/\s+/).filter(Boolean).length).toBeLessThanOrEqual(most);
        const there = text.toLowerCase();
        for (const fact of factsOf(sum))
          for (const word of fact.split(" ")) expect(there).toContain(word.replace(/[.:]$/, ""));
      }),
    );
  });
});

describe("a running summary of a talk", () => {
  const request = "Sum up this conversation in at most 80 words, and nothing but the summary.";
  const sum = (text: string) => answer([{ by: "visitor", text: `${request}\n\n${text}` }], 1).text;

  it("tells of the visitor in sentences about them, and keeps them when it is summed up with what came after", () => {
    const first = sum(
      "Visitor: Hello, I'm Marit and I'm on the 9:40 with two bicycles.\n\nApp: Noted: your name is Marit.\n\nVisitor: No, we are on the 11:10.\n\nApp: Good: you are on the 11:10.",
    );
    expect(first).toContain("The visitor's name is Marit. The visitor is on the 11:10.");
    const second = sum(
      `In short:\n\n${first}\n\nWhat was said before:\n\nVisitor: My dog is called Flint. Could you make it shorter?\n\nApp: Noted.`,
    );
    for (const fact of ["Marit", "11:10", "two bicycles", "Flint"]) expect(second).toContain(fact);
    const prompt = { by: "system" as const, text: `You are the desk.\n\nIn short:\n\n${second}` };
    expect(answer([prompt, { by: "visitor", text: "What is my name?" }], 1).text).toContain("Marit");
    expect(answer([prompt, { by: "visitor", text: "What is my dog called?" }], 1).text).toContain("Flint");
  });
});
