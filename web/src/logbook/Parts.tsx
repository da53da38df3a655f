import { Bar } from "../app/Bar";
import { ListImport } from "./ListImport";
import * as words from "./words";

/** What parts cost and how long they take: the suppliers' lists. */
export default function Parts() {
  return (
    <>
      <Bar>
        <h1 className="bar-title">{words.partsAndPrices}</h1>
      </Bar>
      <main className="page logbook">
        <ListImport what="parts" />
      </main>
    </>
  );
}
