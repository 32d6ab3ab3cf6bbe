import type { Secret, ShownSecret } from "@/contract/credentials";
import { Action } from "../Action";
import { SecretValue } from "../inline/SecretValue";
import { TextValue } from "../inline/TextValue";

/** A secret: from an environment variable by its name, or typed once and sealed. */
export function SecretSentence({
  label,
  secret,
  onChange,
}: {
  label: string;
  secret: ShownSecret;
  onChange: (secret: Exclude<Secret, { sealed: true }>) => void;
}) {
  const isSealed = "sealed" in secret;
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
          <TextValue
            label={`Environment variable of the ${label}`}
            value={secret.variable}
            onChange={(variable) => onChange({ variable })}
          />{" "}
          <span data-standing={secret.isSet ? "good" : "bad"}>({secret.isSet ? "set" : "not set"})</span>{" "}
        </>
      )}
      <small>
        <SecretValue
          label={`The ${label}, typed once`}
          asks={isSealed ? "type another" : "type it once instead"}
          keeps="seal it"
          onChange={(value) => onChange({ value })}
        />
        {isSealed && (
          <>
            {" · "}
            <Action onClick={() => onChange({ variable: "API_KEY" })}>name a variable</Action>
          </>
        )}
      </small>
    </>
  );
}
