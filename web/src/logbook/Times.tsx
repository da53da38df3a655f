import { Link } from "react-router";
import type { ReliabilityView } from "../api/client";
import { fixed } from "../shared/written";
import css from "./pictures.module.css";
import * as words from "./words";

/** How long finding out took on each of the latest jobs, and the mark of what it was reckoned with. */
export function Times({ times }: { times: ReliabilityView["times"] }) {
  if (!times || times.length === 0) return null;
  const most = Math.max(...times.flatMap((t) => [t.spent, t.advised]));
  const spent = times.reduce((n, t) => n + t.spent, 0);
  const advised = times.reduce((n, t) => n + t.advised, 0);
  const part = (v: number) => `${(100 * v) / most}%`;
  return (
    <section>
      <h2>{words.timeSpent}</h2>
      <p>{words.timeInAll(fixed(spent, 0), fixed(advised, 0), times.length)}</p>
      <div className={css.scroll}>
        <table className={css.times}>
          <thead>
            <tr>
              <th scope="col">{words.job}</th>
              <td />
              <th scope="col">{words.minutesSpent}</th>
              <th scope="col">{words.minutesAdvised}</th>
            </tr>
          </thead>
          <tbody>
            {times.map((t) => (
              <tr key={t.id}>
                <th scope="row">
                  <Link to={`/jobs/${t.id}/measure`}>{t.machine}</Link> <small>{t.title}</small>
                </th>
                <td aria-hidden className={css.time}>
                  <i className={t.spent > t.advised ? css.more : css.less} style={{ width: part(t.spent) }} />
                  <b style={{ left: part(t.advised) }} />
                </td>
                <td>{fixed(t.spent, 0)}</td>
                <td>{fixed(t.advised, 0)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}
