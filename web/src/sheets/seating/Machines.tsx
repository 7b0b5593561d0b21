import { useQuery, useQueryClient } from "@tanstack/react-query";
import { api } from "../../api/client";
import { tell, type JobHandle } from "../../api/useJob";
import type { Machine, Vec3 } from "../../api/types";
import { Choice, Segments } from "../../blocks/Choice";
import { Fold } from "../../blocks/Fold";
import { Press } from "../../blocks/Press";
import { sheetCss } from "../../blocks/Sheet";
import { typedNumber } from "../../blocks/typed";
import { TypedField } from "../../blocks/TypedField";
import css from "./Seating.module.css";
import type { Seating } from "./useSeating";

const AROUND = [
  ["nothing", "nothing"],
  ["line", "a line around"],
  ["brim", "a brim"],
  ["raft", "a raft"],
] as const;
const KINDS = [
  ["filament", "filament"],
  ["resin", "resin"],
] as const;
const SHAPES = [
  ["box", "box"],
  ["round", "round"],
] as const;
const STARTS = [
  ["front left", "front left"],
  ["front right", "front right"],
  ["back left", "back left"],
  ["back right", "back right"],
] as const;
const SIDES = ["left", "right", "front", "back", "top"] as const;

/** The machine of a plate: chosen from the shelf, or changed for this job and put on the shelf. */
export function Machines({ handle, seating }: { handle: JobHandle; seating: Seating }) {
  const cache = useQueryClient();
  const { data: shelf = [] } = useQuery({ queryKey: ["machines"], queryFn: api.machines });
  const machine = seating.plate.machine;
  const { data: which } = useQuery({
    queryKey: ["machines", "which", machine],
    queryFn: () => api.whichMachine(machine),
    placeholderData: (before) => before,
  });
  const known = shelf.find((kept) => kept.id === which);
  const options = [
    ...shelf.map((kept) => [String(kept.id), kept.machine.name!] as const),
    ...(known ? [] : [["own", `${machine.name}, as in this job`] as const]),
  ];
  const set: SetMachine = (change) =>
    handle.act((view) => {
      const now = view.survey.plates.find((plate) => plate.id === seating.plate.id)?.machine ?? machine;
      return { do: "set-machine", machine: change(now) };
    });
  const again = () => cache.invalidateQueries({ queryKey: ["machines"] });
  const named = shelf.find((kept) => kept.machine.name === machine.name);
  const keep = async () => {
    await (named ? api.changeMachine(named.id, machine) : api.addMachine(machine)).catch(tell);
    await again();
  };
  const choose = (key: string) => {
    const chosen = shelf.find((kept) => String(kept.id) === key);
    if (chosen) void set(() => chosen.machine).catch(tell);
  };
  return (
    <Fold title="Machine" name="seating-machine" says={`${machine.name}, ${sizeOf(machine)}`}>
      <div className={css.line}>
        <Choice
          label="Machine"
          value={known ? String(known.id) : "own"}
          options={options}
          choose={choose}
          width="100%"
        />
      </div>
      <Fields machine={machine} set={set} />
      <div className={css.line}>
        {which === null && (
          <Press look="box" onClick={keep}>
            {named ? `Keep ${machine.name} so on the shelf` : `Put ${machine.name} on the shelf`}
          </Press>
        )}
        {known && shelf.length > 1 && (
          <Press className="link" onClick={() => void api.removeMachine(known.id).then(again, tell)}>
            Take it off the shelf
          </Press>
        )}
      </div>
      <p className={sheetCss.text}>
        A job keeps its machine as it was taken; what changes on the shelf later leaves it alone.
      </p>
    </Fold>
  );
}

function sizeOf(machine: Machine): string {
  const volume = machine.volume!;
  return volume.shape === "round" ? `ø ${volume.diameter} × ${volume.height}` : (volume.size ?? []).join(" × ");
}

/** A number typed in mm or degrees; what is none is said at the field. */
const number = (typed: string) => typedNumber(typed, typed.trim().endsWith("°") ? "°" : "mm");

/** Changes one thing of the machine as it is when the change is made; fields may be typed faster than answers come. */
type SetMachine = (change: (now: Machine) => Machine) => Promise<unknown>;

interface FieldsProps {
  machine: Machine;
  set: SetMachine;
}

/** All that is decided of a machine. */
function Fields(props: FieldsProps) {
  const { machine, set } = props;
  return (
    <dl className={css.fields}>
      <dt>name</dt>
      <dd>
        <TypedField
          label="Name of the machine"
          value={machine.name!}
          width={190}
          words
          commit={(name) => set((now) => ({ ...now, name }))}
        />
      </dd>
      <VolumeFields {...props} />
      <ProcessFields {...props} />
      <dt>starts at</dt>
      <dd>
        <Choice
          label="Start corner"
          value={machine.start!}
          options={STARTS}
          choose={(start) => void set((now) => ({ ...now, start })).catch(tell)}
          width={120}
        />
      </dd>
      <FirstLayerFields {...props} />
      <dt>display shows</dt>
      <dd>
        <Short
          label="Characters of its display"
          value={machine.display ?? "all"}
          commit={async (typed) => {
            const display = ["", "all"].includes(typed.trim()) ? null : number(typed.trim());
            return set((now) => ({ ...now, display }));
          }}
        />{" "}
        characters
      </dd>
    </dl>
  );
}

interface ShortProps {
  label: string;
  value: number | string;
  commit: (typed: string) => Promise<unknown>;
}

/** A field for one number. */
function Short({ label, value, commit }: ShortProps) {
  return <TypedField label={label} value={String(value)} width={62} commit={commit} />;
}

/** The build volume, and the margins to keep free in it. */
function VolumeFields({ machine, set }: FieldsProps) {
  const [volume, margins] = [machine.volume!, machine.margins!];
  const setRound = (key: "diameter" | "height", mm: number) =>
    set((now) => (now.volume?.shape === "round" ? { ...now, volume: { ...now.volume, [key]: mm } } : now));
  const setSide = (i: number, mm: number) =>
    set((now) =>
      now.volume?.shape === "box"
        ? { ...now, volume: { ...now.volume, size: now.volume.size!.map((one, k) => (k === i ? mm : one)) as Vec3 } }
        : now,
    );
  const setMargin = (side: (typeof SIDES)[number], mm: number) =>
    set((now) => ({ ...now, margins: { ...now.margins!, [side]: mm } }));
  const shape = (key: string) =>
    void set((now) => ({
      ...now,
      volume:
        key === "round" ? { shape: "round", diameter: 180, height: 300 } : { shape: "box", size: [200, 200, 200] },
    })).catch(tell);
  return (
    <>
      <dt>build volume, mm</dt>
      <dd>
        <Segments label="Shape of the volume" value={volume.shape!} options={SHAPES} choose={shape} width={120} />
      </dd>
      <dt />
      <dd>
        {volume.shape === "round"
          ? (["diameter", "height"] as const).map((key) => (
              <Short
                key={key}
                label={key === "diameter" ? "Diameter" : "Height"}
                value={volume[key]}
                commit={async (typed) => setRound(key, number(typed))}
              />
            ))
          : (["Width", "Depth", "Height"] as const).map((label, i) => (
              <span key={label}>
                <Short label={label} value={volume.size![i]!} commit={async (typed) => setSide(i, number(typed))} />
              </span>
            ))}
      </dd>
      <dt>margins, mm</dt>
      <dd className={css.margins}>
        {SIDES.map((side) => (
          <label key={side}>
            <small>{side}</small>
            <Short
              label={`Margin ${side}`}
              value={margins[side]!}
              commit={async (typed) => setMargin(side, number(typed))}
            />
          </label>
        ))}
      </dd>
    </>
  );
}

type Process = NonNullable<Machine["process"]>;

const setProcess = (set: SetMachine, change: Partial<Process>) =>
  set((now) => ({ ...now, process: { ...now.process!, ...change } }));

/** What a machine makes things of, how finely, and what it can leave unsupported. */
function ProcessFields({ machine, set }: FieldsProps) {
  const process = machine.process!;
  return (
    <>
      <dt>makes things of</dt>
      <dd>
        <Segments
          label="Kind of machine"
          value={process.kind!}
          options={KINDS}
          choose={(kind) => void setProcess(set, { kind }).catch(tell)}
          width={160}
        />
      </dd>
      <dt>{process.kind === "resin" ? "dot, layer, mm" : "bead, layer, mm"}</dt>
      <dd>
        <Short label="Bead" value={process.bead!} commit={async (typed) => setProcess(set, { bead: number(typed) })} />
        <Short
          label="Layer"
          value={process.layer!}
          commit={async (typed) => setProcess(set, { layer: number(typed) })}
        />
      </dd>
      <dt>layers it can make</dt>
      <dd>
        <TypedField
          label="Layers it can make"
          value={process.layers!.join(" ")}
          width={150}
          commit={async (typed) => {
            const words = typed.trim().split(/[\s;]+/);
            return setProcess(set, { layers: words.map(number) });
          }}
        />{" "}
        mm
      </dd>
      <dt>overhang from, °</dt>
      <dd>
        <Short
          label="Overhang angle"
          value={process.overhang!}
          commit={async (typed) => setProcess(set, { overhang: number(typed) })}
        />
      </dd>
    </>
  );
}

/** What is drawn around the first layer, and how far out. */
function FirstLayerFields({ machine, set }: FieldsProps) {
  const around = machine.process!.around!;
  const setAround = (change: Partial<NonNullable<Process["around"]>>) =>
    set((now) => ({ ...now, process: { ...now.process!, around: { ...now.process!.around!, ...change } } }));
  return (
    <>
      <dt>around the first layer</dt>
      <dd>
        <Choice
          label="Around the first layer"
          value={around.kind!}
          options={AROUND}
          choose={(kind) => void setAround({ kind }).catch(tell)}
          width={120}
        />
        {around.kind !== "nothing" && (
          <Short
            label="How far around"
            value={around.reach!}
            commit={async (typed) => setAround({ reach: number(typed) })}
          />
        )}
      </dd>
    </>
  );
}
