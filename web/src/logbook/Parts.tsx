import { Bar } from "../app/Bar";
import { ListImport } from "./ListImport";

/** What parts cost and how long they take: the suppliers' lists. */
export default function Parts() {
  return (
    <>
      <Bar>
        <span className="bar-title">Parts and prices</span>
      </Bar>
      <main className="page logbook">
        <ListImport what="parts" />
      </main>
    </>
  );
}
