import type { CompiledProfile } from "./profile";

/** Who speaks in a message that is sent. */
export type WireRole = "system" | "visitor" | "app";

/** One message as the core hands it to a profile. */
export interface WireMessage {
  role: WireRole;
  text: string;
}

/** The settings of a model that a profile can carry. */
export interface WireSettings {
  /** 0 to 2. */
  temperature?: number;
  /** Above 0, up to 1. */
  topP?: number;
  /** Tokens that the reply may have at most. */
  maxOutput?: number;
  /** Words at which the reply ends. */
  stop?: string[];
  seed?: number;
}

/** Everything that one call of a provider is made from. */
export interface WireCall {
  model: string;
  /** The credential; undefined where the provider needs none. */
  key?: string;
  stream: boolean;
  messages: WireMessage[];
  settings: WireSettings;
}

/** An HTTP request, up to the address that it goes to. */
export interface WireRequest {
  method: string;
  path: string;
  headers: Record<string, string>;
  body: string;
}

/** Stands for the key wherever a request is shown or stored. */
export const hiddenKey = "••••";

/** The request that a profile makes of a call. */
export function encode(profile: CompiledProfile, call: WireCall): WireRequest {
  const { roles, request } = profile.source;
  const values = {
    ...call.settings,
    model: call.model,
    key: call.key,
    stream: call.stream,
    messages: call.messages.map(({ role, text }) => ({ role: roles[role], text })),
  };
  return {
    method: request.method,
    path: String(profile.path(values)),
    headers: profile.headers(values) as Record<string, string>,
    body: JSON.stringify(profile.body(values)),
  };
}
