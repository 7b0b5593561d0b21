import type { MachineInForce, Vec3 } from "../../api/types";
import type { Seating } from "./useSeating";

/** The machine of a plate as the bench draws it. */
export function machineOf({ plate }: Seating): MachineInForce {
  const volume = plate.machine.volume!;
  const room = volume.shape === "round" ? [volume.diameter, volume.diameter, volume.height] : volume.size!;
  return {
    name: plate.machine.name!,
    shape: volume.shape!,
    room: room as Vec3,
    free: plate.keeps_free ? (plate.corners as [number, number][]) : [],
    bead_mm: plate.machine.process!.bead!,
  };
}
