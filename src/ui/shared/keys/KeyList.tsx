import { Modal } from "antd";
import { useState } from "react";
import styles from "./KeyList.module.css";
import { keyTable } from "./table";
import { useKeys } from "./use-keys";

/** The list of all keys, which `?` opens in every view of the bench. */
export function KeyList() {
  const [isOpen, setOpen] = useState(false);
  useKeys("bench", { list: () => setOpen(true) });
  return (
    <Modal title="Keys" open={isOpen} onCancel={() => setOpen(false)} footer={null} width={460}>
      <dl className={styles.list}>
        {keyTable.map(({ scope, id, shown, does }) => (
          <div key={`${scope} ${id}`}>
            <dt>
              <kbd>{shown}</kbd>
            </dt>
            <dd>{does}</dd>
          </div>
        ))}
      </dl>
    </Modal>
  );
}
