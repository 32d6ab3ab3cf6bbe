import { describe, expect, it } from "vitest";
import { isBelow, linksBelow } from "./below";

const start = "https://saltmarsh.example/rules/index.html";
const below = (...hrefs: string[]) => linksBelow({ hrefs, base: undefined }, start, start);

describe("what a page leads to", () => {
  it("is below it in its folder and the folders in there, each once, wherever in the page that is", () => {
    expect(below("luggage.html", "./dogs/", "luggage.html#big", "/rules/dogs/", "?page=2")).toEqual([
      "https://saltmarsh.example/rules/luggage.html",
      "https://saltmarsh.example/rules/dogs/",
      "https://saltmarsh.example/rules/index.html?page=2",
    ]);
  });

  it.each([
    "../fares.html",
    "/rules-of-old/",
    "https://other.example/rules/",
    "http://saltmarsh.example/rules/",
    "https://saltmarsh.example:444/rules/",
    "mailto:marit@saltmarsh.example",
    "javascript:alert(1)",
    "file:///rules/x",
    "https://",
    "https://ida:k@saltmarsh.example/rules/x",
    "boat.PNG",
    `x${"y".repeat(2_000)}`,
  ])("is not below it: %s", (href) => {
    expect(below(href)).toEqual([]);
  });

  it("is relative to what the page says", () => {
    const links = { hrefs: ["dogs.html"], base: "/rules/all/" };
    expect(linksBelow(links, start, start)).toEqual(["https://saltmarsh.example/rules/all/dogs.html"]);
    expect(linksBelow({ ...links, base: "https://other.example/rules/" }, start, start)).toEqual([]);
    expect(linksBelow({ ...links, base: "https://[" }, start, start)).toEqual([
      "https://saltmarsh.example/rules/dogs.html",
    ]);
  });

  it("stays below where a page was redirected to", () => {
    expect(isBelow("https://saltmarsh.example/rules/a", start)).toBe(true);
    expect(isBelow("https://saltmarsh.example/login", start)).toBe(false);
  });
});
