import { useFrame, useThree } from "@react-three/fiber";
import { useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import {
  BufferGeometry,
  Float32BufferAttribute,
  LineBasicMaterial,
  LineDashedMaterial,
  LineSegments,
  MeshBasicMaterial,
  Plane,
  Vector2,
  Vector3,
  type Matrix4,
  type Mesh,
  type OrthographicCamera,
} from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import type { Vec3 } from "../api/types";
import { ink } from "../theme/inks";
import { CELLS_OF_MANY, COARSER_FROM, coarseOf } from "./coarse";
import { fillMaterial, OUTLINE_PUSHES, outlineMaterial } from "./ink";
import { merged, mergeable } from "./merged";
import type { BenchMesh } from "./meshData";
import { steer, type Steer } from "./steering";
import { StrokeLines } from "./StrokeLines";
import type { DrawnStrokes } from "./strokes";
import { useEasing } from "./useEasing";
import { cooled } from "./warm";
import { cornersOf, viewOf, type Box, type Margins, type Point2, type View } from "./view";

/** Directions from which the bench is seen, by the key that takes them. */
export const LOOKS: Record<string, { from: Vec3; says: string }> = {
  F: { from: [0, -1, 0], says: "front" },
  T: { from: [0, -1e-4, 1], says: "top" },
  R: { from: [1, 0, 0], says: "right" },
  O: { from: [-0.55, -1, 0.62], says: "oblique" },
};

export interface Handle {
  camera: OrthographicCamera;
  /** The drawn bodies by id. */
  bodies: Map<string, Mesh>;
  /** Take a step of the view. */
  steer: (step: Steer) => void;
}

/** The machine's volume: a box, or the upright cylinder within it. */
export interface Envelope extends Box {
  round: boolean;
  /** Corners of what is left of its plate within margins; empty where that is all of it. */
  free: Point2[];
}

/** One body as it is drawn. */
export interface Drawn {
  id: string;
  mesh: BenchMesh;
  matrix: Matrix4;
  colour: string;
  /** Drawn in line only: it is there to check others against. */
  lined?: boolean;
}

/** Triangles of all bodies together: the outline draws them four times more. */
const OUTLINED_UP_TO = 150_000;

interface Props {
  bodies: Drawn[];
  /** Whether every facet's edges are drawn. */
  facets: boolean;
  /** A place to fly to, in bench coordinates. */
  focus: { point: Vec3; at: number } | null;
  /** The box of all bodies, which the view is framed on. */
  box: Box | null;
  /** The machine's volume; null leaves it out. */
  machine: Envelope | null;
  /** Everything above this height is left out; null for nothing. */
  cutAt: number | null;
  /** Surface that leans over by more than this, in degrees from upright, is stippled; null for none. */
  overhang: number | null;
  /** The same where bodies are not seated: drawn around them, the middle of its plate under their middle. */
  around: Envelope | null;
  /** Lines on the surface of a body, and where that is. */
  strokes: { strokes: DrawnStrokes; matrix: Matrix4; onDark: boolean } | null;
  /** Whether to draw the plate's grid and corner. */
  plate: boolean;
  margins: Margins;
  /** By how much the factor is dragged just now; null when it is not. */
  dragged: number | null;
  look: { from: Vec3; at: number };
  handle: { current: Handle | null };
  onView: (view: View) => void;
}

export function Scene(props: Props) {
  const [eased, ease] = useState(false);
  const asOne = useMemo(() => mergeable(props.bodies.filter((body) => !body.lined)), [props.bodies]);
  return (
    <>
      <Eye {...props} ease={ease} />
      {asOne && <AllInk {...props} eased={eased} />}
      {props.bodies.map((body) => (
        <BodyInk key={body.id} {...props} body={body} eased={eased} asOne={asOne && !body.lined} />
      ))}
      {props.strokes && <StrokeLines {...props.strokes} />}
      {props.machine ? (
        <MachineLines machine={props.machine} plate={props.plate} />
      ) : (
        props.box && <Footprint box={props.box} />
      )}
      {props.around && <MachineLines machine={props.around} plate={false} pale />}
    </>
  );
}

/** The camera turned by hand; the scene is drawn whenever it moves. */
function useTurning(): [OrthographicCamera, OrbitControls] {
  const { camera, gl, invalidate } = useThree();
  const eye = camera as OrthographicCamera;
  const controls = useMemo(() => {
    eye.up.set(0, 0, 1);
    const controls = new OrbitControls(eye, gl.domElement);
    controls.enableDamping = false;
    controls.zoomToCursor = true;
    controls.minZoom = 1e-5;
    controls.maxZoom = 1e7;
    return controls;
  }, [eye, gl]);
  useEffect(() => {
    const redraw = () => invalidate();
    controls.addEventListener("change", redraw);
    return () => {
      controls.removeEventListener("change", redraw);
      controls.dispose();
    };
  }, [controls, invalidate]);
  return [eye, controls];
}

/** Frame what is drawn within the free part of the bench: at first, by a wish, and where a new size left it. */
function useFraming(eye: OrthographicCamera, controls: OrbitControls, props: Props) {
  const { box, machine, plate, margins, look } = props;
  const { invalidate, size } = useThree();
  useLayoutEffect(() => {
    eye.setViewOffset(
      size.width,
      size.height,
      (margins.right - margins.left) / 2,
      (margins.bottom - margins.top) / 2,
      size.width,
      size.height,
    );
    invalidate();
  }, [eye, size, margins, invalidate]);

  const framed = useRef<{ look: number; shown: Box | null; plate: boolean }>({ look: -1, shown: null, plate: false });
  useLayoutEffect(() => {
    if (!box || size.width < 2) return;
    const shown = plate && machine ? union(box, machine) : box;
    const [width, height] = [size.width - margins.left - margins.right, size.height - margins.top - margins.bottom];
    const was = framed.current;
    const same = was.look === look.at && was.plate === plate && was.shown;
    framed.current = { look: look.at, shown, plate };
    if (same) {
      // A new size is seen to grow or shrink; it is framed anew only when that takes it out of a view it was in.
      const fits = (one: Box) => filled(eye, one, width, height);
      const [before, after] = [fits(same), fits(shown)];
      if (after > 0.35 && (after <= 1.02 || before > 1.02)) return;
    } else if (was.look !== look.at) aim(eye, controls, look.from);
    frame(eye, controls, shown, width, height);
    invalidate();
  }, [eye, controls, box, machine, plate, look, size, margins, invalidate]);
}

/** Fly to a place, when that is wished. */
function useFlight(eye: OrthographicCamera, controls: OrbitControls, { focus, box }: Props) {
  const { invalidate, size } = useThree();
  useLayoutEffect(() => {
    if (!focus || !box) return;
    const radius = new Vector3(...box.low).distanceTo(new Vector3(...box.high)) / 2 || 1;
    // From outside: what is marked would else lie behind the body.
    const middle = new Vector3(...box.low).add(new Vector3(...box.high)).multiplyScalar(0.5);
    const outward = new Vector3(...focus.point).sub(middle);
    const from =
      outward.length() > radius * 0.02 ? outward.normalize() : eye.position.clone().sub(controls.target).normalize();
    from.z = Math.min(0.95, Math.max(-0.95, from.z + 0.25)); // a little from above, and never along the up axis
    from.normalize();
    controls.target.set(...focus.point);
    eye.position.copy(controls.target).addScaledVector(from, radius * 20);
    eye.zoom = Math.min(size.width, size.height) / (radius * 1.1);
    eye.lookAt(controls.target);
    eye.updateProjectionMatrix();
    controls.update();
    invalidate();
    // Only a new wish flies there; a turn of the view afterwards is the user's.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [focus]);
}

/** The camera: parallel projection, turned by hand, framed on the body within the free part of the bench. */
function Eye(props: Props & { ease: (on: boolean) => void }) {
  const { handle, onView, dragged, ease } = props;
  const { size, invalidate } = useThree();
  const [eye, controls] = useTurning();
  useEasing(controls, dragged, ease);
  useFraming(eye, controls, props);
  useFlight(eye, controls, props);
  useEffect(cooled, []);
  const last = useRef("");
  useFrame(({ scene }) => {
    const meshes = scene.children.filter((object) => object.name.startsWith(DRAWN)) as Mesh[];
    handle.current = {
      camera: eye,
      bodies: new Map(meshes.map((mesh) => [mesh.name.slice(DRAWN.length), mesh])),
      steer: (step) => {
        steer(eye, controls, step);
        invalidate();
      },
    };
    const view = viewOf(eye, size.width, size.height);
    const print = [...eye.projectionMatrix.elements, ...eye.matrixWorldInverse.elements].join();
    if (print !== last.current) {
      last.current = print;
      onView(view);
    }
  });
  return null;
}

function aim(eye: OrthographicCamera, controls: OrbitControls, from: Vec3) {
  eye.position.copy(controls.target).addScaledVector(new Vector3(...from).normalize(), 1);
}

/** The spread of a box as the eye sees it, in millimetres across and up. */
function spreadOf(eye: OrthographicCamera, box: Box): [number, number] {
  const seen = cornersOf(box).map((corner) => new Vector3(...corner).applyMatrix4(eye.matrixWorldInverse));
  const spread = (axis: "x" | "y") => Math.max(...seen.map((p) => p[axis])) - Math.min(...seen.map((p) => p[axis]));
  return [Math.max(spread("x"), 1e-9), Math.max(spread("y"), 1e-9)];
}

/** How much of a frame a box takes at the present zoom; over 1 is too large. */
function filled(eye: OrthographicCamera, box: Box, width: number, height: number): number {
  const [across, up] = spreadOf(eye, box);
  return Math.max((across * eye.zoom) / width, (up * eye.zoom) / height);
}

function frame(eye: OrthographicCamera, controls: OrbitControls, box: Box, width: number, height: number) {
  const middle = new Vector3(...box.low).add(new Vector3(...box.high)).multiplyScalar(0.5);
  const radius = new Vector3(...box.low).distanceTo(new Vector3(...box.high)) / 2 || 1;
  const from = eye.position.clone().sub(controls.target).normalize();
  controls.target.copy(middle);
  eye.position.copy(middle).addScaledVector(from, radius * 20);
  eye.near = 0;
  eye.far = radius * 60;
  eye.lookAt(middle);
  eye.updateMatrixWorld();
  const [across, up] = spreadOf(eye, box);
  eye.zoom = Math.min(width / across, height / up);
  eye.updateProjectionMatrix();
  controls.update();
}

function union(a: Box, b: Box): Box {
  return {
    low: a.low.map((v, i) => Math.min(v, b.low[i]!)) as Vec3,
    high: a.high.map((v, i) => Math.max(v, b.high[i]!)) as Vec3,
  };
}

const DRAWN = "body ";

/** What is only checked against is drawn as on paper: its lines, and nothing within them. */
const paper = () => ink("--paper");

/** One body: matt fill, inked edges, outline. Where all are drawn as one, it is only there to be picked. */
function BodyInk({
  body,
  bodies,
  machine,
  plate,
  cutAt,
  overhang,
  facets,
  eased,
  asOne,
}: Props & { body: Drawn; eased: boolean; asOne: boolean }) {
  const { mesh, matrix, colour, lined } = body;
  const coarse = !asOne && eased && mesh.triangles > COARSER_FROM ? coarseOf(mesh.surface) : null;
  const inks = useInks(asOne ? null : lined ? paper() : colour, { bodies, machine, plate, cutAt, overhang, eased });
  return (
    <>
      {!asOne &&
        inks.outlines.map((material, i) => (
          <mesh key={i} geometry={mesh.surface} material={material} matrix={matrix} {...STILL} />
        ))}
      {coarse && <mesh geometry={coarse} material={inks.fill} matrix={matrix} {...STILL} />}
      {/* Places are picked on this one, drawn or not. */}
      <mesh
        name={DRAWN + body.id}
        visible={!coarse && !asOne}
        geometry={mesh.surface}
        material={inks.fill}
        matrix={matrix}
        {...STILL}
      />
      {facets && <mesh geometry={mesh.surface} material={inks.net} matrix={matrix} {...STILL} />}
      {!coarse && !asOne && <lineSegments geometry={mesh.ink} material={inks.ink} matrix={matrix} {...STILL} />}
      {/* What is checked against is seen through what is around it, as hidden edges are drawn. */}
      {lined && <lineSegments geometry={mesh.ink} material={inks.hidden} matrix={matrix} {...STILL} />}
    </>
  );
}

const STILL = { matrixAutoUpdate: false, frustumCulled: false } as const;

/** Many bodies in as many draw calls as one takes. */
function AllInk(props: Props & { eased: boolean }) {
  const { bodies } = props;
  const whole = useMemo(() => merged(bodies.filter((body) => !body.lined)), [bodies]);
  const inks = useInks(null, props);
  useEffect(
    () => () => {
      whole.surface.dispose();
      whole.ink.dispose();
    },
    [whole],
  );
  const coarser = props.eased && whole.surface.index!.count > 3 * COARSER_FROM;
  const surface = coarser ? coarseOf(whole.surface, CELLS_OF_MANY) : whole.surface;
  return (
    <>
      {inks.outlines.map((material, i) => (
        <mesh key={i} geometry={surface} material={material} {...STILL} />
      ))}
      <mesh geometry={surface} material={inks.fill} {...STILL} />
      {!coarser && <lineSegments geometry={whole.ink} material={inks.ink} {...STILL} />}
    </>
  );
}

/** The materials of one body, or of many; let go of when they are no longer needed. */
function useInks(
  colour: string | null,
  {
    bodies,
    machine,
    plate,
    cutAt,
    overhang,
    eased,
  }: Pick<Props, "bodies" | "machine" | "plate" | "cutAt" | "overhang"> & { eased: boolean },
) {
  const { size, invalidate, gl } = useThree();
  const screen = useMemo(() => new Vector2(), []);
  const fill = useMemo(() => fillMaterial(colour), [colour]);
  const net = useMemo(
    () => new MeshBasicMaterial({ color: ink("--ink"), wireframe: true, transparent: true, opacity: 0.45 }),
    [],
  );
  // The outline draws the mesh once more per direction: too slow for a large mesh without a graphics card.
  const outlined = !eased && bodies.reduce((sum, drawn) => sum + drawn.mesh.triangles, 0) <= OUTLINED_UP_TO;
  const outlines = useMemo(
    () => (outlined ? OUTLINE_PUSHES : []).map((push) => outlineMaterial(push, screen)),
    [outlined, screen],
  );
  const inked = useMemo(() => new LineBasicMaterial({ color: ink("--ink") }), []);
  const hidden = useMemo(
    () => new LineBasicMaterial({ color: ink("--settled-bright"), transparent: true, opacity: 0.55, depthTest: false }),
    [],
  );
  useEffect(() => () => fill.dispose(), [fill]);
  useEffect(() => () => outlines.forEach((outline) => outline.dispose()), [outlines]);
  useEffect(
    () => () => {
      net.dispose();
      inked.dispose();
      hidden.dispose();
    },
    [net, inked, hidden],
  );

  useLayoutEffect(() => {
    screen.set(size.width, size.height);
    const wide = 1e12;
    const slack = 1e-3;
    fill.uniforms.low!.value.set(...(plate && machine ? machine.low.map((v) => v - slack) : [-wide, -wide, -wide]));
    fill.uniforms.high!.value.set(...(plate && machine ? machine.high.map((v) => v + slack) : [wide, wide, wide]));
    const round = plate && machine?.round;
    fill.uniforms.round!.value.set(
      ...(round ? [machine.high[0] / 2, machine.high[1] / 2, machine.high[0] / 2 + slack] : [0, 0, wide]),
    );
    const cut = cutAt ?? wide;
    fill.uniforms.cut!.value = cut;
    fill.uniforms.steep!.value = overhang === null ? 2 : Math.sin((overhang * Math.PI) / 180);
    for (const one of outlines) one.uniforms.cut!.value = cut;
    gl.localClippingEnabled = true;
    inked.clippingPlanes = cutAt === null ? [] : [new Plane(new Vector3(0, 0, -1), cutAt + 1e-3)];
    invalidate();
  }, [screen, size, fill, machine, plate, cutAt, overhang, outlines, inked, gl, bodies, invalidate]);
  return { fill, net, outlines, ink: inked, hidden };
}

/** The machine's volume in dash-dot lines, and on Seating the plate's grid with its front left corner. */
function MachineLines({ machine, plate, pale = false }: { machine: Envelope; plate: boolean; pale?: boolean }) {
  const { edges, grid, rim, free, corner } = useMemo(() => linesOf(machine, pale), [machine, pale]);
  return (
    <>
      <primitive object={edges} />
      <primitive object={rim} />
      <primitive object={free} />
      {plate && <primitive object={grid} />}
      {(plate || pale) && <primitive object={corner} />}
    </>
  );
}

/** The outline the body's box leaves on the ground: what the dimension lines' ends refer to. */
function Footprint({ box }: { box: Box }) {
  const outline = useMemo(() => {
    const [[x0, y0, z], [x1, y1]] = [box.low, box.high];
    const ring: Vec3[] = [
      [x0, y0, z],
      [x1, y0, z],
      [x1, y1, z],
      [x0, y1, z],
    ];
    const rectangle = new LineSegments(
      lines(ring.flatMap((p, i) => [...p, ...ring[(i + 1) % 4]!])),
      new LineBasicMaterial({ color: ink("--rule"), depthTest: false, depthWrite: false }),
    );
    rectangle.renderOrder = -1;
    return rectangle;
  }, [box]);
  return <primitive object={outline} />;
}

function linesOf({ low, high, round, free: within }: Envelope, pale: boolean) {
  const stroke = ink(pale ? "--rule-faint" : "--rule-strong");
  const [x0, y0, z0] = low;
  const [x1, y1, z1] = high;
  const size = Math.max(x1 - x0, y1 - y0, z1 - z0);
  const upper: number[] = [];
  const [mx, my, radius] = [(x0 + x1) / 2, (y0 + y1) / 2, (x1 - x0) / 2];
  const around = (z: number, count: number) =>
    Array.from({ length: count }, (_, i): Vec3 => [
      mx + radius * Math.cos((i * 2 * Math.PI) / count),
      my + radius * Math.sin((i * 2 * Math.PI) / count),
      z,
    ]);
  const ring = (z: number): Vec3[] =>
    round
      ? around(z, 96)
      : [
          [x0, y0, z],
          [x1, y0, z],
          [x1, y1, z],
          [x0, y1, z],
        ];
  ring(z1).forEach((p, i, all) => upper.push(...p, ...all[(i + 1) % all.length]!));
  const uprights = (z: number) => (round ? around(z, 4) : ring(z));
  uprights(z0).forEach((p, i) => upper.push(...p, ...uprights(z1)[i]!));
  const dashed = new LineDashedMaterial({ color: stroke, dashSize: size / 40, gapSize: size / 90 });
  const edges = new LineSegments(lines(upper), dashed);
  edges.computeLineDistances();
  const base: number[] = [];
  ring(z0).forEach((p, i, all) => base.push(...p, ...all[(i + 1) % all.length]!));
  const rim = new LineSegments(lines(base), new LineBasicMaterial({ color: stroke }));
  const fine: number[] = [];
  for (let x = x0 + 10; x < x1 - 1e-6; x += 10) fine.push(x, y0, z0, x, y1, z0);
  for (let y = y0 + 10; y < y1 - 1e-6; y += 10) fine.push(x0, y, z0, x1, y, z0);
  const grid = new LineSegments(lines(fine), new LineBasicMaterial({ color: ink("--rule-fine") }));
  const chain = within.flatMap(([x, y], i) => [x, y, z0, ...within[(i + 1) % within.length]!, z0]);
  const free = new LineSegments(
    lines(chain),
    new LineDashedMaterial({ color: stroke, dashSize: size / 60, gapSize: size / 120 }),
  );
  free.computeLineDistances();
  const mark = Math.max(x1 - x0, y1 - y0) / 14;
  const at: number[] = [x0, y0, z0, x0 + 2 * mark, y0, z0, x0, y0, z0, x0, y0 + 2 * mark, z0];
  at.push(x0 + mark, y0, z0, x0, y0 + mark, z0);
  const corner = new LineSegments(lines(at), new LineBasicMaterial({ color: ink(pale ? "--rule-worn" : "--ink") }));
  // Drawn first and without depth: the body is always in front of the machine's lines.
  for (const one of [edges, grid, rim, free, corner]) {
    one.material.depthTest = one.material.depthWrite = false;
    one.renderOrder = -1;
  }
  grid.renderOrder = -2;
  return { edges, grid, rim, free, corner };
}

function lines(numbers: number[]): BufferGeometry {
  return new BufferGeometry().setAttribute("position", new Float32BufferAttribute(numbers, 3));
}
