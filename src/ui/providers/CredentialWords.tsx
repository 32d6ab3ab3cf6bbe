import { Input } from "antd";
import { useState } from "react";
import type { Credential, Secret, ShownCredential, ShownSecret } from "@/contract/credentials";
import { ChoiceWord, KeptNumberWord, KeptWord } from "../shared/words";
import styles from "./CredentialWords.module.css";

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
export function CredentialWords({
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
      <ChoiceWord
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
        <SecretWords label="key" secret={shown.secret} onChange={(secret) => change({ secret })} />
      )}
      {shown.kind === "basic" && (
        <>
          {" "}
          for <KeptWord label="Name" value={shown.user} onKeep={(user) => change({ user })} />
          <SecretWords label="password" secret={shown.secret} onChange={(secret) => change({ secret })} />
        </>
      )}
      {shown.kind === "token" && (
        <>
          {" "}
          at <KeptWord label="Address of the token" value={shown.url} onKeep={(url) => change({ url })} />, sent as{" "}
          <ChoiceWord
            label="Form of the token request"
            value={shown.send}
            options={[
              { value: "form", label: "a form" },
              { value: "json", label: "JSON" },
            ]}
            onChange={(send) => void change({ send })}
          />{" "}
          with the id
          <SecretWords label="id" secret={shown.id} onChange={(id) => change({ id })} /> and the secret
          <SecretWords label="secret" secret={shown.secret} onChange={(secret) => change({ secret })} />, read at{" "}
          <KeptWord label="Path of the token" value={shown.token} onKeep={(token) => change({ token })} /> and good for
          the seconds at{" "}
          <KeptWord
            label="Path of the seconds"
            value={shown.expires ?? ""}
            placeholder="no path"
            onKeep={(expires) => change({ expires: expires || undefined })}
          />
          , as{" "}
          <KeptWord
            label="Body of the token request"
            value={JSON.stringify(shown.body)}
            onKeep={async (text) => {
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
          : <KeptWord label="Command" value={shown.command} onKeep={(command) => change({ command })} />, kept for{" "}
          <KeptNumberWord
            label="Seconds that the token is kept"
            value={shown.keepFor}
            min={0}
            max={86_400}
            onKeep={(keepFor) => keepFor !== undefined && void change({ keepFor })}
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

/** A secret: from an environment variable by its name, or typed once and sealed. */
function SecretWords({
  label,
  secret,
  onChange,
}: {
  label: string;
  secret: ShownSecret;
  onChange: (secret: Secret) => void;
}) {
  const [types, setTypes] = useState(false);
  const [typed, setTyped] = useState("");
  const isSealed = "sealed" in secret;
  const keep = () => {
    if (typed !== "") onChange({ value: typed });
    setTyped("");
    setTypes(false);
  };
  if (types)
    return (
      <span className={styles.typing}>
        {" "}
        <Input.Password
          size="small"
          autoFocus
          aria-label={`The ${label}, typed once`}
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
          onPressEnter={keep}
          visibilityToggle={false}
          autoComplete="off"
        />{" "}
        <button type="button" className="link" onClick={keep}>
          seal it
        </button>{" "}
        <button
          type="button"
          className="link"
          onClick={() => {
            setTyped("");
            setTypes(false);
          }}
        >
          cancel
        </button>
      </span>
    );
  return (
    <>
      {isSealed ? (
        <>
          {" "}
          {secret.isSample ? (
            <>
              that is the stand-in's <b>sample key</b>, sealed here: nothing has to be restarted
            </>
          ) : (
            <>
              that is <b>sealed</b> here
            </>
          )}{" "}
        </>
      ) : (
        <>
          {" "}
          from{" "}
          <KeptWord
            label={`Environment variable of the ${label}`}
            value={secret.variable}
            onKeep={(variable) => onChange({ variable })}
          />{" "}
          <span data-standing={secret.isSet ? "good" : "bad"}>({secret.isSet ? "set" : "not set"})</span>{" "}
        </>
      )}
      <small>
        <button type="button" className="link" onClick={() => setTypes(true)}>
          {isSealed ? "type another" : "type it once instead"}
        </button>
        {isSealed && (
          <>
            {" · "}
            <button type="button" className="link" onClick={() => onChange({ variable: "API_KEY" })}>
              name a variable
            </button>
          </>
        )}
      </small>
    </>
  );
}
