import { afterEach, beforeEach, describe, expect, it } from "vitest";
import { isRefusal } from "../ground/refusal";
import { bodyOf, TestProvider } from "../test/provider";
import { pastedCall } from "./try";

let server: TestProvider;
beforeEach(async () => {
  server = await TestProvider.start(async (request, response) => {
    const key = String(request.headers["x-key"]);
    response.writeHead(200, { "content-type": "text/plain" }).end(`${request.url} ${key} ${await bodyOf(request)}`);
  });
});
afterEach(() => {
  server.stop();
  delete process.env.TEST_ADDRESS;
  delete process.env.TEST_PASTED_KEY;
});

const call = (url: string) => pastedCall({ method: "POST", url, headers: [["x-key", "$TEST_PASTED_KEY"]], body: "{}" });

describe("a pasted call", () => {
  it("is made with what variables hold, in its address too, and shows no secret that comes back", async () => {
    process.env.TEST_ADDRESS = server.address;
    process.env.TEST_PASTED_KEY = "k-4711-pasted";
    expect((await call("$TEST_ADDRESS/say?v=1")).text).toBe("/say?v=1 ************* {}");
    expect((await call(`${server.address}/say`)).text).toContain("/say ");
  });

  it("is not made where the variable of its address is not set", async () => {
    const refused = await call("$TEST_ADDRESS/say").catch((error) => error);
    expect(isRefusal(refused) && refused.problem.detail).toContain("$TEST_ADDRESS/say is no address");
  });
});
