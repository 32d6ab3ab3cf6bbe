import { describe, expect, it } from "vitest";
import { schemas } from "../schema/schema";
import { type Operation, operationsIn } from "./openapi";
import { toolName } from "./tool";

const ferry = {
  openapi: "3.0.3",
  info: { title: "Saltmarsh Ferry" },
  servers: [{ url: "https://ferry.example/api/" }],
  security: [{ quayKey: [] }],
  paths: {
    "/boats/{boat}/places": {
      parameters: [{ $ref: "#/components/parameters/boat" }],
      get: {
        operationId: "placesLeft",
        summary: "Places left on a boat",
        security: [],
        parameters: [
          {
            name: "day",
            in: "query",
            schema: { type: "string", format: "date" },
            description: "Today where none is given",
          },
          { name: "X-Trace", in: "header", schema: { type: "string" } },
        ],
      },
      post: {
        operationId: "book",
        summary: "Books places",
        requestBody: {
          required: true,
          content: { "application/json": { schema: { $ref: "#/components/schemas/Booking" } } },
        },
      },
    },
    "/crew": {
      get: { summary: "The crew", security: [{}, { quayKey: [] }] },
      put: {
        operationId: "crew",
        requestBody: {
          content: {
            "application/json": { schema: { type: "array", items: { $ref: "#/components/schemas/Person" } } },
          },
        },
        security: [{ harbourToken: [] }],
      },
      patch: { operationId: "crew", requestBody: { required: true, content: { "text/plain": { schema: {} } } } },
    },
  },
  components: {
    parameters: { boat: { name: "boat", in: "path", required: true, schema: { type: "string" } } },
    schemas: {
      Booking: {
        type: "object",
        required: ["seats", "who"],
        properties: {
          seats: { type: "integer", minimum: 0, exclusiveMinimum: true, example: 2 },
          who: { $ref: "#/components/schemas/Person" },
          note: { type: "string", nullable: true, "x-order": 3 },
        },
      },
      Person: {
        type: "object",
        properties: {
          name: { type: "string" },
          with: { type: "array", items: { $ref: "#/components/schemas/Person" } },
        },
      },
    },
    securitySchemes: {
      quayKey: { type: "apiKey", in: "header", name: "X-Quay-Key" },
      harbourToken: { type: "http", scheme: "bearer" },
    },
  },
};

const operations = (document: unknown = ferry, from?: string): Operation[] => {
  const read = operationsIn(document, from);
  if (read.kind === "wrong") throw new Error(read.why);
  return read.operations;
};
const named = (name: string) => operations().find((each) => each.name === name) as Operation;

describe("an OpenAPI document gives tools", () => {
  it("with the arguments of an operation wherever they stand in its call", () => {
    expect(named("placesLeft")).toMatchObject({
      description: "Places left on a boat",
      method: "GET",
      url: "https://ferry.example/api/boats/{boat}/places?day={day}",
      body: undefined,
      headers: [],
      lacks: undefined,
      parameters: {
        type: "object",
        required: ["boat"],
        properties: { boat: { type: "string" }, day: { type: "string", description: "Today where none is given" } },
      },
    });
  });

  it("with what schemas refer to, also where that refers to itself, as JSON Schema has it today", () => {
    const { parameters, body, headers } = named("book");
    expect(body).toEqual({ seats: "{seats}", who: "{who}", note: "{note}" });
    expect(parameters).toEqual({
      type: "object",
      properties: {
        boat: { type: "string" },
        seats: { type: "integer", exclusiveMinimum: 0 },
        who: { $ref: "#/$defs/Person" },
        note: { type: ["string", "null"] },
      },
      required: ["boat", "seats", "who"],
      $defs: {
        Person: {
          type: "object",
          properties: { name: { type: "string" }, with: { type: "array", items: { $ref: "#/$defs/Person" } } },
        },
      },
    });
    expect(schemas.wrongIn(parameters)).toBeUndefined();
    expect(headers).toEqual([{ name: "X-Quay-Key", value: "$QUAY_KEY" }]);
  });

  it("with names of their own, with no credential where none is needed, and what they lack said", () => {
    expect(operations().map(({ name, lacks }) => [name, lacks])).toEqual([
      ["placesLeft", undefined],
      ["book", undefined],
      ["get_crew", undefined],
      ["crew", undefined],
      ["crew_2", "a body that is not JSON"],
    ]);
    expect(named("get_crew").headers).toEqual([]);
    expect(named("crew")).toMatchObject({
      body: "{body}",
      headers: [{ name: "Authorization", value: "Bearer $HARBOUR_TOKEN" }],
    });
  });

  it("at a server that is relative to the document, and none where no address is whole", () => {
    const relative = { ...ferry, servers: [{ url: "/v2" }] };
    expect(operations(relative, "https://quay.example/openapi.json")[0]?.url).toMatch(
      /^https:\/\/quay.example\/v2\/boats/,
    );
    expect(operationsIn(relative, undefined)).toMatchObject({
      kind: "wrong",
      why: expect.stringContaining("no server"),
    });
    for (const none of [{ swagger: "2.0" }, null, [], { openapi: "4.0.0" }, "text"])
      expect(operationsIn(none, undefined)).toMatchObject({ kind: "wrong" });
  });

  it("three hundred of them, each under a name that a model takes and with a schema that is one", () => {
    const paths = Object.fromEntries(
      Array.from({ length: 300 }, (_, at) => [
        `/island ${at}/{quay.name}/${at}`,
        {
          get: {
            operationId: `9 read island #${at % 150}`,
            parameters: [{ name: "quay.name", in: "path", required: true, schema: { $ref: "#/nowhere" } }],
          },
        },
      ]),
    );
    const all = operations({ ...ferry, paths });
    expect(all).toHaveLength(300);
    expect(new Set(all.map(({ name }) => name)).size).toBe(300);
    for (const { name, parameters, lacks, url } of all) {
      expect(name).toMatch(toolName);
      expect(schemas.wrongIn(parameters)).toBeUndefined();
      expect(lacks).toContain("not in the document");
      expect(url).toContain("{quay_name}");
    }
  });
});
