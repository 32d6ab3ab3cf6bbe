import { useState } from "react";
import type { Credential, Secret, ShownCredential, ShownSecret } from "@/contract/credentials";
import { ChoiceValue } from "../shared/inline/ChoiceValue";
import { NumberValue } from "../shared/inline/NumberValue";
import { TextValue } from "../shared/inline/TextValue";
import { SecretSentence } from "../shared/sentences/SecretSentence";

const kinds = {
  none: "no key",
  key: "a key",
  basic: "a name and a password",
  token: "a token that it fetches",
  command: "a token that a command prints",
} as const;

const emptyNamed = { variable: "API_KEY", isSet: false };

/** What a kind of credential begins as. */
const beginnings: Record<ShownCredential["kind"], ShownCredential> = {
  none: { kind: "none" },
  key: { kind: "key", secret: emptyNamed },
  basic: { kind: "basic", user: "me", secret: emptyNamed },
  token: {
    kind: "token",
    url: "/oauth/token",
    send: "form",
    body: { grant_type: "client_credentials", client_id: "<id>", client_secret: "<secret>" },
    id: { variable: "CLIENT_ID", isSet: false },
    secret: { variable: "CLIENT_SECRET", isSet: false },
    token: "$.access_token",
    expires: "$.expires_in",
  },
  command: { kind: "command", command: "cat token.txt", keepFor: 300 },
};

/** How a provider knows its caller, as a part of a sentence: "with a key from REEDBED_KEY". */
export function CredentialSentence({
  credential,
  onChange,
}: {
  credential: ShownCredential;
  onChange: (credential: Credential) => Promise<boolean>;
}) {
  // a kind that was chosen and does not hold a secret yet
  const [begun, setBegun] = useState<ShownCredential>();
  const shown = begun ?? credential;
  const change = async (changed: Partial<Record<string, unknown>>) => {
    const next = { ...incoming(shown), ...changed } as Credential;
    if (await onChange(next)) setBegun(undefined);
  };
  return (
    <>
      with{" "}
      <ChoiceValue
        label="Kind of credential"
        value={shown.kind}
        options={Object.entries(kinds).map(([value, label]) => ({ value, label }))}
        onChange={(kind) => {
          const next = kind === credential.kind ? credential : beginnings[kind as ShownCredential["kind"]];
          setBegun(next);
          void onChange(incoming(next)).then((isKept) => isKept && setBegun(undefined));
        }}
      />
      {shown.kind === "key" && (
        <SecretSentence label="key" secret={shown.secret} onChange={(secret) => change({ secret })} />
      )}
      {shown.kind === "basic" && (
        <>
          {" "}
          for <TextValue label="Name" value={shown.user} onChange={(user) => change({ user })} />
          <SecretSentence label="password" secret={shown.secret} onChange={(secret) => change({ secret })} />
        </>
      )}
      {shown.kind === "token" && (
        <>
          {" "}
          at <TextValue label="Address of the token" value={shown.url} onChange={(url) => change({ url })} />, sent as{" "}
          <ChoiceValue
            label="Form of the token request"
            value={shown.send}
            options={[
              { value: "form", label: "a form" },
              { value: "json", label: "JSON" },
            ]}
            onChange={(send) => void change({ send })}
          />{" "}
          with the id
          <SecretSentence label="id" secret={shown.id} onChange={(id) => change({ id })} /> and the secret
          <SecretSentence label="secret" secret={shown.secret} onChange={(secret) => change({ secret })} />, read at{" "}
          <TextValue label="Path of the token" value={shown.token} onChange={(token) => change({ token })} /> and good
          for the seconds at{" "}
          <TextValue
            label="Path of the seconds"
            value={shown.expires ?? ""}
            placeholder="no path"
            onChange={(expires) => change({ expires: expires || undefined })}
          />
          , as{" "}
          <TextValue
            label="Body of the token request"
            value={JSON.stringify(shown.body)}
            onChange={async (text) => {
              try {
                await change({ body: JSON.parse(text) });
              } catch {
                await change({ body: text as never });
              }
            }}
          />
        </>
      )}
      {shown.kind === "command" && (
        <>
          : <TextValue label="Command" value={shown.command} onChange={(command) => change({ command })} />, kept for{" "}
          <NumberValue
            label="Seconds that the token is kept"
            value={shown.keepFor}
            min={0}
            max={86_400}
            onChange={(keepFor) => keepFor !== undefined && void change({ keepFor })}
          />{" "}
          s
        </>
      )}
    </>
  );
}

/** A credential as it goes back to the server: what is sealed stays so. */
function incoming(credential: ShownCredential): Credential {
  const secretOf = (secret: ShownSecret): Secret =>
    "sealed" in secret ? { sealed: true } : { variable: secret.variable };
  if (credential.kind === "none" || credential.kind === "command") return credential;
  if (credential.kind === "token")
    return { ...credential, id: secretOf(credential.id), secret: secretOf(credential.secret) };
  return { ...credential, secret: secretOf(credential.secret) };
}
