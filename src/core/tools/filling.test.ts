import { describe, expect, it } from "vitest";
import { type Arguments, type CalledAddress, filledCall } from "./filling";

const at = (url: string, method: CalledAddress["method"] = "GET", body?: CalledAddress["body"]) => ({
  method,
  url: `https://desk.example${url}`,
  body,
});
const filled = (address: CalledAddress, given: Arguments) => {
  const call = filledCall(address, given);
  return call.kind === "filled" ? [call.url.replace("https://desk.example", ""), call.body] : call.why;
};

describe("the call of a tool's address", () => {
  it.each<[CalledAddress, Arguments, unknown]>([
    [at("/boats"), { day: "Sunday" }, ["/boats?day=Sunday", undefined]],
    [at("/boats", "POST"), { day: "Sunday", seats: 2 }, ["/boats", { day: "Sunday", seats: 2 }]],
    [
      at("/boats/{boat}/places"),
      { boat: "9:40 / Tansy", day: "1 May" },
      ["/boats/9%3A40%20%2F%20Tansy/places?day=1+May", undefined],
    ],
    // a parameter of which nothing is given is left out, one that always stands there stays
    [at("/boats?day={day}&from={from}&as=list"), { day: "a&b" }, ["/boats?day=a%26b&as=list", undefined]],
    [at("/boats/{boat}", "DELETE"), { boat: 7, why: null }, ["/boats/7", undefined]],
    [at("/boats/{boat}", "PATCH"), { boat: "7", seats: [1, 2] }, ["/boats/7", { seats: [1, 2] }]],
    [
      at("/book", "PUT", { boat: "{boat}", text: "for {name}", on: [{ day: "{day}" }, "{none}"], note: "{none}" }),
      { boat: 9, name: "Ida", day: "Sunday", more: true },
      ["/book", { boat: 9, text: "for Ida", on: [{ day: "Sunday" }] }],
    ],
  ])("%# is filled from the arguments", (address, given, call) => {
    expect(filled(address, given)).toEqual(call);
  });

  it("is not made where the path lacks an argument, or one would leave the path", () => {
    expect(filled(at("/boats/{boat}"), {})).toContain("boat is not given");
    for (const boat of ["..", ".", "%2e%2e", ".%2e"]) {
      const call = filled(at("/boats/{boat}/places"), { boat });
      if (/^\.+$/.test(boat)) expect(call).toContain("another path");
      else expect(call).toEqual([`/boats/${encodeURIComponent(boat)}/places`, undefined]);
    }
  });
});
