import { describe, expect, it } from "vitest";
import { count, duration, many, moment, price, rate, turnsUpTo } from "./format";

describe("figures as the bench writes them", () => {
  it.each([
    [count(16384), "16,384"],
    [turnsUpTo(3, 200), "3 turns"],
    [turnsUpTo(200, 200), "200 turns or more"],
    [many(1, "turn"), "1 turn"],
    [many(1200, "turn"), "1,200 turns"],
    [duration(412), "412 ms"],
    [duration(1903), "1.90 s"],
    [duration(22_800), "22.8 s"],
    [duration(125_000), "2 min 5 s"],
    [price(0.00214, "EUR"), "€0.0021"],
    [price(12.5, "EUR"), "€12.5000"],
    [rate(2.5, "EUR"), "€2.50"],
  ])("%s", (written, expected) => {
    expect(written).toBe(expected);
  });

  it("gives the time today, and the day too before that", () => {
    const now = new Date(2026, 10, 23, 12, 0).getTime();
    expect(moment(new Date(2026, 10, 23, 9, 40).getTime(), now)).toBe("09:40");
    expect(moment(new Date(2026, 10, 22, 9, 40).getTime(), now)).toBe("22 Nov, 09:40");
  });
});
