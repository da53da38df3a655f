import { Button } from "antd";
import { lazy, Suspense } from "react";
import { stateOf, useJob } from "../job/job";
import { looksIn, readsOf, type Own } from "./own";
import * as words from "./words";

// Its lists are fetched by who wants them.
const OwnChoice = lazy(() => import("./OwnChoice"));

/** How far the list has come: kept outside the card, which may be drawn anew under the hand. */
export interface Picking {
  what?: string;
  from?: string;
}

/**
 * A reading of one's own by list, for those who do not want to touch the picture: two points for the probes, the part a
 * clamp goes round, ohms of a part, or a look. Only what the state has is offered.
 */
export function OwnPicker({
  picking,
  onPicking,
  onOwn,
}: {
  picking: Picking;
  onPicking: (p: Picking) => void;
  onOwn: (p: Own) => void;
}) {
  const { circuit, state } = useJob();
  const st = stateOf(circuit, state);
  const reads = readsOf(st);
  const looks = looksIn(circuit, state);
  if (reads.length === 0 && looks.length === 0) return null;
  const offered = [...reads, ...(looks.length > 0 ? ["look"] : [])];
  const what = offered.find((x) => x === picking.what); // another state has other readings
  const { from } = picking;
  const own = (o: Own) => {
    onPicking({});
    onOwn(o);
  };
  if (!what)
    return (
      <Button onClick={() => onPicking({ what: offered[0] })} title={words.orTouchTwoPoints}>
        {words.otherReading}
      </Button>
    );
  return (
    <Suspense fallback={<span className="quiet">{words.oneMoment}</span>}>
      <OwnChoice what={what} offered={offered} from={from} onPicking={onPicking} own={own} />
    </Suspense>
  );
}
