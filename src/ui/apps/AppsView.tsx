"use client";

import { Button, Input, Modal } from "antd";
import Link from "next/link";
import { useRouter } from "next/navigation";
import { type FormEvent, useRef, useState } from "react";
import type { ListedApp } from "@/contract/apps";
import { apps } from "@/contract/apps";
import { addressFor } from "@/contract/call";
import type { Provider } from "@/contract/providers";
import { replies } from "@/contract/replies";
import { Action } from "../shared/Action";
import { server } from "../shared/api";
import { ConfirmAction } from "../shared/Confirm";
import { many, moment } from "../shared/format";
import { FormText } from "../shared/inline/FormText";
import { type ModelChoice, ModelValue } from "../shared/inline/ModelValue";
import { ProblemNote } from "../shared/ProblemNote";
import { keys, modelChoices, useApps, useProviders } from "../shared/queries";
import { useChange } from "../shared/use-change";
import styles from "./AppsView.module.css";

/** What apps there are, and the sentence that makes one. */
export function AppsView() {
  const apps = useApps();
  const providers = useProviders();
  const failure = apps.error ?? providers.error;
  return (
    <main className={styles.view}>
      <h1 className="unseen">Apps</h1>
      {failure && <ProblemNote problem={failure.problem} />}
      {providers.data && (
        <MakeApp providers={providers.data.providers} taken={apps.data?.apps.map(({ name }) => name) ?? []} />
      )}
      {apps.data && <AppTable apps={apps.data.apps} />}
    </main>
  );
}

function MakeApp({ providers, taken }: { providers: Provider[]; taken: string[] }) {
  const router = useRouter();
  const [first] = modelChoices(providers);
  const [name, setName] = useState("");
  const [chosen, setChosen] = useState<ModelChoice>();
  const value = chosen ?? (first && { provider: first.provider.slug, model: first.model.name });
  const make = useChange("The new app", async () => {
    const { id: provider = "" } = providers.find(({ slug }) => slug === value?.provider) ?? {};
    const { slug } = await server.send(apps.make, { body: { name, provider, model: value?.model ?? "" } });
    router.push(`/apps/${slug}/build`);
  }, [keys.apps]);
  if (!first)
    return (
      <div className={styles.sentence}>
        An app speaks through a provider, and none is wired. <Link href="/providers">Wire a model API</Link> first, or
        make it of <FromBundle />.
      </div>
    );
  const onSubmit = (event: FormEvent) => {
    event.preventDefault();
    if (name.trim()) make.run();
  };
  return (
    <form className={styles.make} onSubmit={onSubmit}>
      <div className={styles.sentence}>
        Make an app called <FormText label="Name of the app" value={name} placeholder="a name" onChange={setName} />{" "}
        that speaks through <ModelValue label="Model" providers={providers} value={value} onChange={setChosen} />, with
        a plain prompt to start from. Or make it of <FromBundle />.
      </div>
      <Button type="primary" htmlType="submit" disabled={name.trim() === ""} loading={make.isRunning}>
        Make it
      </Button>
      {taken.includes(name.trim()) && (
        <span className={styles.hint}>There is a {name.trim()} already; this one gets another address.</span>
      )}
      {make.problem && <ProblemNote problem={make.problem} />}
    </form>
  );
}

/** Makes an app of a file that was downloaded here or written by `finch export`. */
function FromBundle() {
  const router = useRouter();
  const input = useRef<HTMLInputElement>(null);
  const making = useChange(
    "The new app",
    async (file: File) => {
      const { slug } = await server.send(apps.fromBundle, { body: { text: await file.text() } });
      router.push(`/apps/${slug}/build`);
    },
    [keys.apps, keys.providers],
  );
  return (
    <>
      <Action onClick={() => input.current?.click()}>a bundle</Action>
      <input
        ref={input}
        hidden
        type="file"
        accept=".json,application/json"
        aria-label="Bundle"
        onChange={({ target }) => {
          const [file] = target.files ?? [];
          if (file) making.run(file);
          target.value = "";
        }}
      />
      {making.problem && <ProblemNote problem={making.problem} />}
    </>
  );
}

function AppTable({ apps }: { apps: ListedApp[] }) {
  if (apps.length === 0) return <p className={styles.empty}>No app yet.</p>;
  return (
    <table className={styles.apps}>
      <thead>
        <tr>
          <th scope="col">App</th>
          <th scope="col">Speaks through</th>
          <th scope="col">Live</th>
          <th scope="col">Conversations</th>
          <th scope="col">Last used</th>
          <th scope="col">
            <span className="unseen">Actions</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {apps.map((app) => (
          <AppRow key={app.slug} app={app} />
        ))}
      </tbody>
    </table>
  );
}

type Dialog = "rename" | "copy";

function AppRow({ app }: { app: ListedApp }) {
  const [dialog, setDialog] = useState<Dialog>();
  return (
    <tr>
      <th scope="row">
        <Link href={`/apps/${app.slug}/build`}>{app.name}</Link>
        <span className={styles.purpose}>{app.purpose || "without a system prompt"}</span>
        <code>{addressFor(replies.ask, { slug: app.slug })}</code>
      </th>
      <td>
        {app.model} on {app.provider}
      </td>
      <td>revision {app.liveRevision}</td>
      <td>{app.conversations}</td>
      <td>{app.lastUsed === null ? "not yet" : moment(app.lastUsed, Date.now())}</td>
      <td>
        <div className={styles.actions}>
          <Action onClick={() => setDialog("rename")}>rename</Action>
          <Action onClick={() => setDialog("copy")}>copy</Action>
          <a href={addressFor(apps.bundle, { slug: app.slug })} download={`${app.slug}.finch.json`}>
            download
          </a>
          <DeleteAction app={app} />
          {dialog && <NameDialog app={app} does={dialog} onClose={() => setDialog(undefined)} />}
        </div>
      </td>
    </tr>
  );
}

function NameDialog({ app, does, onClose }: { app: ListedApp; does: "rename" | "copy"; onClose: () => void }) {
  const [name, setName] = useState(does === "copy" ? `${app.name} copy` : app.name);
  const call = does === "copy" ? apps.copy : apps.rename;
  const naming = useChange("The name", () => server.send(call, { slug: app.slug, body: { name } }), [keys.apps]);
  const submit = async () => {
    if ((await naming.done()).ok) onClose();
  };
  return (
    <Modal
      open
      title={does === "copy" ? `Copy ${app.name}` : `Rename ${app.name}`}
      okText={does === "copy" ? "Copy it" : "Rename it"}
      cancelText="Leave it"
      okButtonProps={{ disabled: name.trim() === "" }}
      onOk={submit}
      onCancel={onClose}
      width={420}
    >
      <Input
        aria-label="Name"
        autoFocus
        value={name}
        onChange={(event) => setName(event.target.value)}
        onPressEnter={submit}
        maxLength={60}
      />
      <p className={styles.hint}>
        {does === "copy" ? "The copy starts from the draft, without its conversations." : "Its address stays as it is."}
      </p>
      {naming.problem && <ProblemNote problem={naming.problem} />}
    </Modal>
  );
}

function DeleteAction({ app }: { app: ListedApp }) {
  const deletion = useChange("The deletion", () => server.send(apps.delete, { slug: app.slug }), [keys.apps]);
  return (
    <ConfirmAction
      question={`Delete ${app.name}?`}
      says={
        <>
          Its revisions and {many(app.conversations, "conversation")} go with it, and callers of{" "}
          <code>{addressFor(replies.ask, { slug: app.slug })}</code> get no answer any more.
        </>
      }
      does="Delete it for good"
      problem={deletion.problem}
      onDo={async () => (await deletion.done()).ok}
    >
      delete
    </ConfirmAction>
  );
}
