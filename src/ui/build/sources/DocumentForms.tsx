import { Button, Input } from "antd";
import { type FormEvent, useState } from "react";
import { sources as calls, type Source } from "@/contract/sources";
import type { Problem } from "@/core/problem/problem";
import { deepestBelow } from "@/core/sources/below";
import { Action } from "../../shared/Action";
import { server } from "../../shared/api";
import { NumberValue } from "../../shared/inline/NumberValue";
import { ProblemNote } from "../../shared/ProblemNote";
import { keys } from "../../shared/queries";
import { useChange } from "../../shared/use-change";
import styles from "./SourcesStation.module.css";

/** Names a folder whose documents are taken, and says which of its files could not be. */
export function FolderForm({
  slug,
  onAdded,
  onClose,
}: {
  slug: string;
  onAdded: (sources: Source[]) => void;
  onClose: () => void;
}) {
  const [path, setPath] = useState("");
  /** Files of it that could not be taken. */
  const [left, setLeft] = useState<readonly { file: string; problem: Problem }[]>([]);
  const adding = useChange("The folder", () => server.send(calls.addFolder, { slug, body: { path: path.trim() } }), [
    keys.sources(slug),
    keys.found(slug),
    keys.jobs,
  ]);
  const submit = async (event: FormEvent) => {
    event.preventDefault();
    if (path.trim() === "") return;
    const added = await adding.done();
    if (!added.ok) return;
    onAdded(added.value.sources);
    setLeft(added.value.problems);
    if (added.value.problems.length === 0) onClose();
  };
  return (
    <form className={styles.address} onSubmit={(event) => void submit(event)}>
      <Input
        size="small"
        autoFocus
        aria-label="Folder of documents"
        placeholder="/home/ada/papers"
        value={path}
        onChange={(event) => setPath(event.target.value)}
      />
      <Button size="small" htmlType="submit" type="primary" disabled={path.trim() === "" || adding.isRunning}>
        Watch it
      </Button>
      <Action onClick={onClose}>{left.length > 0 ? "close" : "cancel"}</Action>
      {left.length > 0 && (
        <p className={styles.quiet} role="status">
          Not taken: {left.map(({ problem }) => problem.detail).join(" ")}
        </p>
      )}
      {adding.problem && <ProblemNote problem={adding.problem} />}
    </form>
  );
}

/** Names an address whose page or file becomes a document. */
export function AddressForm({
  slug,
  onAdded,
  onClose,
}: {
  slug: string;
  onAdded: (source: Source) => void;
  onClose: () => void;
}) {
  const [url, setUrl] = useState("");
  const [isOwn, setOwn] = useState(false);
  const [below, setBelow] = useState(0);
  const body = { url: url.trim(), allowsThisMachine: isOwn || undefined, below: below || undefined };
  const adding = useChange("The document", () => server.send(calls.addAddress, { slug, body }), [
    keys.sources(slug),
    keys.found(slug),
    keys.jobs,
  ]);
  const submit = async (event: FormEvent) => {
    event.preventDefault();
    if (url.trim() === "") return;
    const added = await adding.done();
    if (added.ok) onAdded(added.value);
  };
  return (
    <form className={styles.address} onSubmit={(event) => void submit(event)}>
      <Input
        type="url"
        size="small"
        autoFocus
        aria-label="Address of the document"
        placeholder="https://saltmarsh.example/rules.html"
        value={url}
        onChange={(event) => setUrl(event.target.value)}
      />
      <span>
        and the pages below it,{" "}
        <NumberValue
          label="Links that pages below it may be away"
          value={below}
          min={0}
          max={deepestBelow}
          onChange={(links) => setBelow(links ?? 0)}
        />{" "}
        deep
      </span>
      <label>
        <input type="checkbox" checked={isOwn} onChange={(event) => setOwn(event.target.checked)} /> may be on this
        machine
      </label>
      <Button size="small" htmlType="submit" type="primary" disabled={url.trim() === "" || adding.isRunning}>
        Add it
      </Button>
      <Action onClick={onClose}>cancel</Action>
      {adding.problem && <ProblemNote problem={adding.problem} />}
    </form>
  );
}
