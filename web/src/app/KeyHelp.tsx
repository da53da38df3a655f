import { Modal } from "antd";
import css from "./KeyHelp.module.css";
import { keyList } from "./keys";
import * as words from "./words";

/** Every key, by where it works. */
export function KeyHelp({ onClose }: { onClose: () => void }) {
  return (
    <Modal open title={words.keys} footer={null} width={860} onCancel={onClose}>
      <div className={css.keys}>
        {keyList.map((g) => (
          <section key={g.title}>
            <h3>{g.title}</h3>
            <dl>
              {g.keys.map((k) => (
                <div key={k.id}>
                  <dt>
                    <kbd>{k.shown}</kbd>
                  </dt>
                  <dd>{k.what}</dd>
                </div>
              ))}
            </dl>
          </section>
        ))}
      </div>
    </Modal>
  );
}
