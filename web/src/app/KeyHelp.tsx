import { Modal } from "antd";
import css from "./KeyHelp.module.css";
import { keysAt, type Where } from "./keys";
import { does, wheres } from "./keyWords";
import * as words from "./words";

/** Every key, by where it works. */
export function KeyHelp({ onClose }: { onClose: () => void }) {
  return (
    <Modal open title={words.keys} footer={null} width={860} onCancel={onClose}>
      <div className={css.keys}>
        {(Object.entries(wheres) as [Where, string][]).map(([where, title]) => (
          <section key={where}>
            <h3>{title}</h3>
            <dl>
              {keysAt(where).map((k) => (
                <div key={k.id}>
                  <dt>
                    <kbd>{k.shown}</kbd>
                  </dt>
                  <dd>{does[k.id]}</dd>
                </div>
              ))}
            </dl>
          </section>
        ))}
      </div>
    </Modal>
  );
}
