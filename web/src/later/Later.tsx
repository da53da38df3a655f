import { Link } from "react-router";

const what: Record<string, string> = {
  trace: "A current trace from clamp and scope will be judged here: ripple, weak bars, speed.",
  strip: "The strip-down will be kept here: what came off, in which order, with marks and photos.",
  back: "The strip-down in reverse will stand here, with what must not be forgotten.",
  prove: "Before and after will be compared here, on the same readings.",
  report: "One page for the customer and one for the file will be printed from here.",
};

/** A stage that is not built yet says so and pretends nothing. */
export function Later({ stage, label }: { stage: string; label: string }) {
  return (
    <main className="page narrow">
      <h1>{label}: not built yet</h1>
      <p>{what[stage]}</p>
      <p className="quiet">
        Nothing is lost by passing it by. What works today: <Link to="../complaint">Complaint</Link>,{" "}
        <Link to="../checks">Quick checks</Link>, <Link to="../measure">Measure</Link> and{" "}
        <Link to="../decide">Decide</Link>.
      </p>
    </main>
  );
}
