import { Hollow } from "./ways/Hollow";
import type { Way } from "./ways/parts";
import { Solids } from "./ways/Solids";
import { Trial } from "./ways/Trial";
import { TwoColours } from "./ways/TwoColours";

/** What else a body can be made into: a trial, two colours, a hollow one, one with another. */
export function OtherWays(props: Way) {
  return (
    <>
      <Trial {...props} />
      <TwoColours {...props} />
      <Hollow {...props} />
      <Solids {...props} />
    </>
  );
}
