"use client";

import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Button, Input, Modal } from "antd";
import Link from "next/link";
import { useRouter } from "next/navigation";
import { type FormEvent, useState } from "react";
import type { ListedApp } from "@/contract/apps";
import { apps } from "@/contract/apps";
import { addressFor } from "@/contract/call";
import type { Provider } from "@/contract/providers";
import { replies } from "@/contract/replies";
import type { Problem } from "@/core/problem/problem";
import { problemIn, server } from "../shared/api";
import { many, moment } from "../shared/format";
import { type ModelChoice, ModelWord } from "../shared/ModelWord";
import { ProblemNote } from "../shared/ProblemNote";
import { keys, modelChoices, useApps, useProviders } from "../shared/queries";
import { TextWord } from "../shared/words";
import styles from "./AppsView.module.css";

/** What apps there are, and the sentence that makes one. */
export function AppsView() {
  const apps = useApps();
  const providers = useProviders();
  const failure = apps.error ?? providers.error;
  return (
    <main className={styles.view}>
      <h1 className="unseen">Apps</h1>
      {failure && <ProblemNote problem={problemIn(failure, "The list of apps")} />}
      {providers.data && (
        <MakeApp providers={providers.data.providers} taken={apps.data?.apps.map(({ name }) => name) ?? []} />
      )}
      {apps.data && <AppTable apps={apps.data.apps} />}
    </main>
  );
}

function MakeApp({ providers, taken }: { providers: Provider[]; taken: string[] }) {
  const router = useRouter();
  const client = useQueryClient();
  const [first] = modelChoices(providers);
  const [name, setName] = useState("");
  const [chosen, setChosen] = useState<ModelChoice>();
  const value = chosen ?? (first && { provider: first.provider.slug, model: first.model.name });
  const make = useMutation({
    mutationFn: () => {
      const { id: provider = "" } = providers.find(({ slug }) => slug === value?.provider) ?? {};
      const body = { name, provider, model: value?.model ?? "" };
      return server.send(apps.make, { body });
    },
    onSuccess: (app) => {
      void client.invalidateQueries({ queryKey: keys.apps });
      router.push(`/apps/${app.slug}/build`);
    },
  });
  if (!first)
    return (
      <div className={styles.sentence}>
        An app speaks through a provider, and none is wired. <Link href="/providers">Wire a model API</Link> first.
      </div>
    );
  const onSubmit = (event: FormEvent) => {
    event.preventDefault();
    if (name.trim()) make.mutate();
  };
  return (
    <form className={styles.make} onSubmit={onSubmit}>
      <div className={styles.sentence}>
        Make an app called <TextWord label="Name of the app" value={name} placeholder="a name" onChange={setName} />{" "}
        that speaks through <ModelWord label="Model" providers={providers} value={value} onChange={setChosen} />, with a
        plain prompt to start from.
      </div>
      <Button type="primary" htmlType="submit" disabled={name.trim() === ""} loading={make.isPending}>
        Make it
      </Button>
      {taken.includes(name.trim()) && (
        <span className={styles.hint}>There is a {name.trim()} already; this one gets another address.</span>
      )}
      {make.error && <ProblemNote problem={problemIn(make.error, "The new app")} />}
    </form>
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

type Dialog = "rename" | "copy" | "delete";

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
          <button type="button" className="link" onClick={() => setDialog("rename")}>
            rename
          </button>
          <button type="button" className="link" onClick={() => setDialog("copy")}>
            copy
          </button>
          <button type="button" className="link" onClick={() => setDialog("delete")}>
            delete
          </button>
          {dialog === "delete" && <DeleteDialog app={app} onClose={() => setDialog(undefined)} />}
          {(dialog === "rename" || dialog === "copy") && (
            <NameDialog app={app} does={dialog} onClose={() => setDialog(undefined)} />
          )}
        </div>
      </td>
    </tr>
  );
}

function NameDialog({ app, does, onClose }: { app: ListedApp; does: "rename" | "copy"; onClose: () => void }) {
  const client = useQueryClient();
  const [name, setName] = useState(does === "copy" ? `${app.name} copy` : app.name);
  const [problem, setProblem] = useState<Problem>();
  const submit = async () => {
    try {
      if (does === "copy") await server.send(apps.copy, { slug: app.slug, body: { name } });
      else await server.send(apps.rename, { slug: app.slug, body: { name } });
      await client.invalidateQueries({ queryKey: keys.apps });
      onClose();
    } catch (error) {
      setProblem(problemIn(error, "The name"));
    }
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
      {problem && <ProblemNote problem={problem} />}
    </Modal>
  );
}

function DeleteDialog({ app, onClose }: { app: ListedApp; onClose: () => void }) {
  const client = useQueryClient();
  const [problem, setProblem] = useState<Problem>();
  const submit = async () => {
    try {
      await server.send(apps.delete, { slug: app.slug });
      await client.invalidateQueries({ queryKey: keys.apps });
      onClose();
    } catch (error) {
      setProblem(problemIn(error, "The deletion"));
    }
  };
  return (
    <Modal
      open
      title={`Delete ${app.name}`}
      okText="Delete it for good"
      cancelText="Keep it"
      okButtonProps={{ danger: true, type: "default" }}
      onOk={submit}
      onCancel={onClose}
      width={420}
    >
      <p>
        Its revisions and {many(app.conversations, "conversation")} go with it, and callers of{" "}
        <code>{addressFor(replies.ask, { slug: app.slug })}</code> get no answer any more.
      </p>
      {problem && <ProblemNote problem={problem} />}
    </Modal>
  );
}
