import { Hollow } from "./ways/Hollow";
import { Outline } from "./ways/Outline";
import { Thread } from "./ways/Thread";
import type { Way } from "./ways/parts";
import { Solids } from "./ways/Solids";
import { Trial } from "./ways/Trial";
import { TwoColours } from "./ways/TwoColours";

/** What else a body can be made into: a trial, two colours, a hollow one, one with another; or drawn flat. */
export function OtherWays(props: Way) {
  return (
    <>
      <Trial {...props} />
      <TwoColours {...props} />
      <Hollow {...props} />
      <Thread {...props} />
      <Solids {...props} />
      <Outline {...props} />
    </>
  );
}
