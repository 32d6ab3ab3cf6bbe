import { useState } from "react";
import { serving, type Token } from "@/contract/serving";
import { Action } from "../shared/Action";
import { server } from "../shared/api";
import { ConfirmAction } from "../shared/Confirm";
import { CopyAction } from "../shared/CopyAction";
import { moment } from "../shared/format";
import { ChoiceValue } from "../shared/inline/ChoiceValue";
import { FormText } from "../shared/inline/FormText";
import { ProblemNote } from "../shared/ProblemNote";
import { keys } from "../shared/queries";
import { useChange } from "../shared/use-change";
import styles from "./ServeView.module.css";

const kinds: { value: Token["kind"]; label: string }[] = [
  { value: "server", label: "a server, which may name any visitor" },
  { value: "public", label: "a page or an installed app, which opens visitors of its own" },
  { value: "site", label: "a site with a login of its own, which signs who its visitors are" },
];
const kindWords: Record<Token["kind"], string> = { server: "server", public: "public", site: "signs identities" };

/** The tokens of an app: made, shown once, named, revoked. */
export function Tokens({ slug, tokens }: { slug: string; tokens: Token[] }) {
  const [name, setName] = useState("");
  const [kind, setKind] = useState<Token["kind"]>("server");
  const [shown, setShown] = useState<{ id: string; text: string }>();
  const touches = [keys.serving(slug)];
  const making = useChange(
    "The token",
    () => server.send(serving.makeToken, { slug, body: { kind, name: name.trim() } }),
    touches,
  );
  const revoking = useChange("The token", (id: string) => server.send(serving.revokeToken, { slug, id }), touches);
  const make = async () => {
    const made = await making.done();
    if (!made.ok) return;
    setShown({ id: made.value.token.id, text: made.value.text });
    setName("");
  };
  const now = Date.now();
  return (
    <div className={styles.unfolded}>
      <ul className={styles.plain}>
        {tokens.map(({ id, kind, name, hint, usedAt }) => (
          <li key={id}>
            <b>{name}</b> · {kindWords[kind]} · <code>…{hint}</code> ·{" "}
            {usedAt === null ? "never used" : `last used ${moment(usedAt, now)}`} ·{" "}
            <ConfirmAction
              aria-label={`Revoke ${name}`}
              question={`Revoke ${name}?`}
              says="Whoever calls with it is refused from then on; it can't be brought back."
              does="Revoke it"
              problem={revoking.problem}
              onDo={async () => (await revoking.done(id)).ok}
            >
              revoke
            </ConfirmAction>
            {shown?.id === id && (
              <p className={styles.token} role="status">
                <code>{shown.text}</code> <CopyAction text={() => shown.text} /> It is shown this once: nobody can read
                it here again. <Action onClick={() => setShown(undefined)}>I have it</Action>
              </p>
            )}
          </li>
        ))}
        {tokens.length === 0 && <li>There is no token yet.</li>}
      </ul>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (name.trim()) void make();
        }}
      >
        Make one named{" "}
        <FormText
          label="Name of the token"
          maxLength={60}
          placeholder="timetable board"
          value={name}
          onChange={setName}
        />{" "}
        for{" "}
        <ChoiceValue
          label="What the token is for"
          value={kind}
          options={kinds}
          onChange={(value) => setKind(value as Token["kind"])}
        />{" "}
        <Action type="submit" disabled={name.trim() === "" || making.isRunning}>
          make it
        </Action>
      </form>
      {(making.problem ?? revoking.problem) && (
        <ProblemNote problem={(making.problem ?? revoking.problem) as NonNullable<typeof making.problem>} />
      )}
    </div>
  );
}
