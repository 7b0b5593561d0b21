import createClient from "openapi-fetch";

import { connectionLost } from "./connection";
import { newestHeld, received } from "./held";
import type { paths } from "./schema";
import type {
  Objective,
  AskRelease,
  BulkRow,
  CardSettings,
  ReceivingHabits,
  UserAction,
  JobPlace,
  JobWish,
  StockSpot,
  Task,
  AskCalibration,
  PressCaliper,
  Machine,
  Axis,
  AskPieces,
  Anchor,
  AskInside,
  PlaneEdit,
  JobAnswer,
  JobView,
} from "./types";

/** What the server says is wrong, where, and what to do. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    readonly says: string,
    readonly where = "",
    readonly remedy = "",
  ) {
    super(says);
  }

  /** The whole message as one line. */
  get line(): string {
    return [this.says, this.where, this.remedy].filter(Boolean).join("; ");
  }
}

const UNREACHED = new Problem(
  0,
  "unreached",
  "the server does not answer",
  "",
  "see whether it still runs, then try again",
);

/** The code of a file that its user stopped on its way. */
export const LEFT = "stopped";

/** No request holds up those behind it for longer. */
const LONGEST_MS = 120_000;

const LATE = new Problem(
  0,
  "late",
  `the server has not answered for ${LONGEST_MS / 60_000} minutes`,
  "",
  "it may still be done: look at the job in a moment, then try again",
);

/** On every request: a page of another site cannot have it sent. */
const OWN_HEADER = "X-Aim-True";

/** Told to the window when the server wants its key. */
export const KEY_WANTED = "aimtrue-key-wanted";

/** Fetch, and throw what is wrong as a Problem. */
async function guarded(request: Request): Promise<Response> {
  const late = AbortSignal.timeout(LONGEST_MS);
  const answer = await fetch(request, { signal: AbortSignal.any([request.signal, late]) }).catch(() => {
    if (late.aborted) throw LATE;
    connectionLost();
    throw UNREACHED;
  });
  if (answer.status === 401) window.dispatchEvent(new Event(KEY_WANTED));
  if (!answer.ok) throw problemOf(answer.status, await answer.text());
  return answer;
}

/** A wrong path, parameter or body does not compile: all are those of the server's own description. */
const http = createClient<paths>({ headers: { [OWN_HEADER]: "1" }, fetch: guarded });

function problemOf(status: number, body: string): Problem {
  try {
    const failure = JSON.parse(body) as Record<"code" | "says" | "where" | "remedy", string>;
    return new Problem(status, failure.code, failure.says, failure.where, failure.remedy);
  } catch {
    return new Problem(status, "server", "the server's answer is not understood", "", "reload the page");
  }
}

/** What an address answers; where it answers with an error, `guarded` has thrown it. */
async function answered<T>(answer: Promise<{ data?: T }>): Promise<T> {
  return (await answer).data as T;
}

/** Which job, and which answer of it is held already: then only what changed since is sent. */
const ofJob = (key: string) => ({ path: { key }, header: { seen: newestHeld(key) } });

/** Ask something that is answered with a job, or with what changed since the answer that is held. */
async function job(id: string, answer: Promise<{ data?: JobAnswer }>): Promise<JobView> {
  const view = received(id, await answered(answer));
  return view ?? received(id, await answered(http.GET("/api/jobs/{key}", { params: { path: { key: id } } })))!;
}

export const api = {
  jobList: (wish: JobWish) => answered(http.GET("/api/job-list", { params: { query: wish } })),
  examples: () => answered(http.GET("/api/examples")),
  openExample: (name: string) => answered(http.POST("/api/examples/{name}", { params: { path: { name } } })),
  thumbnail: (id: string, number: number) =>
    answered(
      http.GET("/api/jobs/{key}/thumbnail/{number}", { params: { path: { key: id, number } }, parseAs: "text" }),
    ) as Promise<string>,
  labelJobs: (jobs: string[], label: string, on: boolean) =>
    answered(http.POST("/api/job-list/label", { body: { jobs: jobs as [string, ...string[]], label, on } })),
  putJobs: (jobs: string[], place: JobPlace) =>
    answered(http.POST("/api/job-list/place", { body: { jobs: jobs as [string, ...string[]], place } })),
  renameJob: async (id: string, name: string) =>
    void (await http.POST("/api/jobs/{key}/name", { params: { path: { key: id } }, body: { name } })),
  usual: () => answered(http.GET("/api/usual")),
  keepUsual: (id: string, name: string) =>
    answered(http.POST("/api/jobs/{key}/usual", { params: { path: { key: id } }, body: { name } })),
  removeUsual: (name: string) => answered(http.POST("/api/usual/remove", { body: { name } })),
  drafts: (id: string) => answered(http.GET("/api/jobs/{key}/drafts", { params: { path: { key: id } } })),
  keepDraft: async (id: string, name: string, value: Record<string, unknown>) =>
    void (await http.PUT("/api/jobs/{key}/drafts/{name}", {
      params: { path: { key: id, name } },
      body: { value },
      // A page that is left still sends it; browsers do that for 64 KiB at most.
      keepalive: JSON.stringify(value).length < 60_000,
    })),
  copyJob: (id: string) => answered(http.POST("/api/jobs/{key}/copy", { params: { path: { key: id } } })),
  job: (id: string) => job(id, http.GET("/api/jobs/{key}", { params: ofJob(id) })),
  releaseFiles: (id: string, number: number) =>
    answered(http.GET("/api/jobs/{key}/releases/{number}", { params: { path: { key: id, number } } })),
  previewRelease: (id: string, asked: AskRelease, shown: number) =>
    answered(
      http.POST("/api/jobs/{key}/releases/preview", { params: { path: { key: id } }, body: { ...asked, shown } }),
    ),
  patterns: () => answered(http.GET("/api/patterns")),
  forgetPattern: (pattern: string) => answered(http.POST("/api/patterns/forget", { body: { pattern } })),
  releaseChanges: (id: string, number: number) =>
    answered(http.GET("/api/jobs/{key}/releases/{number}/changes", { params: { path: { key: id, number } } })),
  backToRelease: (id: string, on: number, number: number) =>
    job(
      id,
      http.POST("/api/jobs/{key}/releases/{number}/back", {
        params: { ...ofJob(id), path: { key: id, number } },
        body: { on },
      }),
    ),
  proofSheet: (id: string, number: number) =>
    answered(http.GET("/api/jobs/{key}/releases/{number}/sheet", { params: { path: { key: id, number } } })),
  verify: (id: string, number: number, file: File) =>
    answered(
      http.POST("/api/jobs/{key}/releases/{number}/verify", {
        params: { path: { key: id, number }, query: { name: file.name } },
        ...bytes(file),
      }),
    ),
  releaseMany: (jobs: string[], asked: AskRelease) =>
    answered(http.POST("/api/bulk/releases", { body: { ...asked, jobs } })),
  manyNow: (rows: BulkRow[]) => answered(http.POST("/api/bulk/state", { body: { rows } })),
  drives: () => answered(http.GET("/api/drives")),
  card: () => answered(http.GET("/api/standins/card")),
  setCard: (settings: CardSettings) => answered(http.PUT("/api/standins/card", { body: settings })),
  useCard: (what: "eject" | "put-in" | "empty") =>
    answered(http.POST("/api/standins/card/{what}", { params: { path: { what } } })),
  putDown: (id: string, number: number, drive: string, replace: boolean) =>
    answered(
      http.POST("/api/jobs/{key}/releases/{number}/put", {
        params: { path: { key: id, number } },
        body: { drive, replace },
      }),
    ),
  targets: () => answered(http.GET("/api/targets")),
  sendTo: (id: string, number: number, target: string, again: boolean) =>
    job(
      id,
      http.POST("/api/jobs/{key}/releases/{number}/send", {
        params: { ...ofJob(id), path: { key: id, number } },
        body: { target, again },
      }),
    ),
  handovers: (id: string, number: number) =>
    answered(http.GET("/api/jobs/{key}/releases/{number}/handovers", { params: { path: { key: id, number } } })),
  receive: (id: string, number: number, habits: ReceivingHabits) =>
    answered(
      http.POST("/api/jobs/{key}/releases/{number}/receive", { params: { path: { key: id, number } }, body: habits }),
    ),
  removeJob: async (id: string) => void (await http.DELETE("/api/jobs/{key}", { params: { path: { key: id } } })),
  limits: () => answered(http.GET("/api/limits")),
  act: (id: string, on: number, action: UserAction) =>
    job(id, http.POST("/api/jobs/{key}/actions", { params: ofJob(id), body: { on, action } })),
  undo: (id: string, on: number) => job(id, http.POST("/api/jobs/{key}/undo", { params: ofJob(id), body: { on } })),
  redo: (id: string, on: number) => job(id, http.POST("/api/jobs/{key}/redo", { params: ofJob(id), body: { on } })),
  release: (id: string, on: number, asked: AskRelease) =>
    job(id, http.POST("/api/jobs/{key}/releases", { params: ofJob(id), body: { on, ...asked } })),
  task: (id: string, on: number, task: Task, begin = true) =>
    job(id, http.POST("/api/jobs/{key}/tasks", { params: ofJob(id), body: { on, task, begin } })),
  features: (id: string, body: string) =>
    answered(http.GET("/api/jobs/{key}/bodies/{body}/features", { params: { path: { key: id, body } } })),
  importReadings: (id: string, on: number, body: string, text: string) =>
    answered(http.POST("/api/jobs/{key}/readings", { params: { path: { key: id } }, body: { on, body, text } })),
  compare: (id: string, subject: string) =>
    answered(http.GET("/api/jobs/{key}/compare/{subject}", { params: { path: { key: id, subject } } })),
  materials: () => answered(http.GET("/api/materials")),
  calibrations: () => answered(http.GET("/api/calibrations")),
  calibrate: (asked: AskCalibration) => answered(http.POST("/api/calibrations", { body: asked })),
  forget: (number: number) => answered(http.DELETE("/api/calibrations/{number}", { params: { path: { number } } })),
  pressCaliper: (jaws: PressCaliper["jaws"]) =>
    answered(http.POST("/api/standins/caliper", { body: { jaws } as PressCaliper })),
  layerPaths: (id: string, plate: string, number: number) =>
    answered(
      http.GET("/api/jobs/{key}/plates/{plate}/paths/{number}", { params: { path: { key: id, plate, number } } }),
    ),
  printSets: (id: string, plate: string) =>
    answered(http.GET("/api/jobs/{key}/plates/{plate}/print-sets", { params: { path: { key: id, plate } } })),
  cost: (id: string) => answered(http.GET("/api/jobs/{key}/cost", { params: { path: { key: id } } })),
  tallyOfJobs: (jobs: string[]) => answered(http.POST("/api/bulk/tally", { body: { jobs } })),
  tally: (id: string, times: number, machines: number) =>
    answered(http.GET("/api/jobs/{key}/tally", { params: { path: { key: id }, query: { times, machines } } })),
  wayCosts: (id: string, body: string, copy_number: number, wish: "seconds" | "grams" | "cost") =>
    answered(
      http.GET("/api/jobs/{key}/seats/{body}/{copy_number}/way-costs", {
        params: { path: { key: id, body, copy_number }, query: { wish } },
      }),
    ),
  budgetWays: (id: string, plate: string) =>
    answered(http.GET("/api/jobs/{key}/plates/{plate}/budget-ways", { params: { path: { key: id, plate } } })),
  machines: () => answered(http.GET("/api/machines")),
  whichMachine: (machine: Machine) => answered(http.POST("/api/machines/which", { body: machine })),
  addMachine: (machine: Machine) => answered(http.POST("/api/machines", { body: machine })),
  changeMachine: (number: number, machine: Machine) =>
    answered(http.PUT("/api/machines/{number}", { params: { path: { number } }, body: machine })),
  removeMachine: (number: number) => answered(http.DELETE("/api/machines/{number}", { params: { path: { number } } })),
  plan: (id: string, plate: string) =>
    answered(http.GET("/api/jobs/{key}/plates/{plate}/plan", { params: { path: { key: id, plate } } })),
  layers: (id: string, plate: string) =>
    answered(http.GET("/api/jobs/{key}/plates/{plate}/layers", { params: { path: { key: id, plate } } })),
  layer: (id: string, plate: string, number: number) =>
    answered(
      http.GET("/api/jobs/{key}/plates/{plate}/layers/{number}", { params: { path: { key: id, plate, number } } }),
    ),
  ways: (id: string, body: string, copy: number, wish: Objective) =>
    answered(
      http.GET("/api/jobs/{key}/seats/{body}/{copy_number}/ways", {
        params: { path: { key: id, body, copy_number: copy }, query: { wish } },
      }),
    ),
  firstLayer: (id: string, body: string, copy: number) =>
    answered(
      http.GET("/api/jobs/{key}/seats/{body}/{copy_number}/first-layer", {
        params: { path: { key: id, body, copy_number: copy } },
      }),
    ),
  tryMove: (id: string, body: string, copy: number, dx: number, dy: number, turn: number) =>
    answered(
      http.GET("/api/jobs/{key}/seats/{body}/{copy_number}/try", {
        params: { path: { key: id, body, copy_number: copy }, query: { dx, dy, turn } },
      }),
    ),
  mirrored: (id: string, body: string) =>
    answered(http.GET("/api/jobs/{key}/seats/{body}/mirrored", { params: { path: { key: id, body } } })),
  offers: (id: string) => answered(http.GET("/api/jobs/{key}/fit/offers", { params: { path: { key: id } } })),
  detail: (id: string, pair: string, depth: number) =>
    answered(http.GET("/api/jobs/{key}/fit/pairs/{pair}", { params: { path: { key: id, pair }, query: { depth } } })),
  walls: (id: string, under: string) =>
    answered(http.GET("/api/jobs/{key}/fit/walls", { params: { path: { key: id }, query: { under } } })),
  inspection: (id: string) => answered(http.GET("/api/jobs/{key}/inspection", { params: { path: { key: id } } })),
  calibrateByParts: (id: string) =>
    answered(http.POST("/api/jobs/{key}/inspection/calibration", { params: { path: { key: id } } })),
  changed: (id: string, body: string, since: "mended" | "revised") =>
    answered(
      http.GET("/api/jobs/{key}/bodies/{body}/changed", { params: { path: { key: id, body }, query: { since } } }),
    ),
  drawnWalls: (id: string, body: string, under: string) =>
    answered(http.GET("/api/jobs/{key}/fit/walls/{body}", { params: { path: { key: id, body }, query: { under } } })),
  between: (id: string, one: string, other: string, place: string) =>
    answered(
      http.GET("/api/jobs/{key}/fit/between/{one}/{other}", {
        params: { path: { key: id, one, other }, query: { place } },
      }),
    ),
  nearest: (id: string, one: string, other: string, place: string, depth: number) =>
    answered(
      http.GET("/api/jobs/{key}/fit/between/{one}/{other}/section", {
        params: { path: { key: id, one, other }, query: { place, depth } },
      }),
    ),
  gaps: (id: string, one: string, other: string, place: string, upto: string) =>
    answered(
      http.GET("/api/jobs/{key}/fit/between/{one}/{other}/gaps", {
        params: { path: { key: id, one, other }, query: { place, upto } },
      }),
    ),
  stock: (id: string, text: string, threaded: boolean, clearance: string) =>
    answered(
      http.GET("/api/jobs/{key}/stock", { params: { path: { key: id }, query: { text, threaded, clearance } } }),
    ),
  stockList: (search: string) => answered(http.GET("/api/stock", { params: { query: { search } } })),
  bores: (id: string) => answered(http.GET("/api/jobs/{key}/stock/bores", { params: { path: { key: id } } })),
  through: (id: string, text: string, { body, feature, flipped, washers }: StockSpot) =>
    answered(
      http.GET("/api/jobs/{key}/stock/through", {
        params: { path: { key: id }, query: { text, body, feature, flipped, washers } },
      }),
    ),
  seams: (id: string, body: string, axis: Axis) =>
    answered(http.GET("/api/jobs/{key}/division/{body}/seams/{axis}", { params: { path: { key: id, body, axis } } })),
  tryDivision: (id: string, body: string, asked: AskPieces, machine: Machine | null) =>
    answered(
      http.POST("/api/jobs/{key}/division/{body}/try", {
        params: { path: { key: id, body } },
        body: { asked, machine },
      }),
    ),
  editPlanes: (id: string, body: string, planes: string[], edit: PlaneEdit) =>
    answered(
      http.POST("/api/jobs/{key}/division/{body}/planes", {
        params: { path: { key: id, body } },
        body: { planes, edit },
      }),
    ),
  roundWalls: (id: string, body: string) =>
    answered(http.GET("/api/jobs/{key}/division/{body}/walls", { params: { path: { key: id, body } } })),
  planesMade: (id: string, division: string) =>
    answered(http.GET("/api/jobs/{key}/division/{division}/planes", { params: { path: { key: id, division } } })),
  planeOn: (id: string, body: string, face: number) =>
    answered(http.GET("/api/jobs/{key}/division/{body}/face/{face}", { params: { path: { key: id, body, face } } })),
  apart: (id: string, body: string, asked: AskPieces) =>
    answered(http.POST("/api/jobs/{key}/division/{body}/apart", { params: { path: { key: id, body } }, body: asked })),
  placed: (id: string, body: string, asked: AskInside) =>
    answered(http.POST("/api/jobs/{key}/division/{body}/placed", { params: { path: { key: id, body } }, body: asked })),
  planeBy: (id: string, body: string, places: Anchor[]) =>
    answered(
      http.POST("/api/jobs/{key}/division/{body}/places", { params: { path: { key: id, body } }, body: { places } }),
    ),
  outline: (id: string, body: string, axis: Axis, at: string) =>
    answered(
      http.GET("/api/jobs/{key}/division/{body}/outline/{axis}", {
        params: { path: { key: id, body, axis }, query: { at } },
      }),
    ),
  printed: (id: string, division: string) =>
    answered(http.GET("/api/jobs/{key}/division/{division}/printed", { params: { path: { key: id, division } } })),
  calibrateBy: (id: string, division: string) =>
    answered(http.POST("/api/jobs/{key}/division/{division}/calibration", { params: { path: { key: id, division } } })),
  around: (id: string, reading: string) =>
    answered(http.GET("/api/jobs/{key}/division/around/{reading}", { params: { path: { key: id, reading } } })),
  stop: async (id: string, task: number) =>
    void (await http.POST("/api/jobs/{key}/tasks/{task}/stop", { params: { path: { key: id, task } } })),
  mesh: async (name: string) =>
    (await guarded(new Request(`/api/${name}`, { headers: { [OWN_HEADER]: "1" } }))).arrayBuffer(),
  giveKey: async (key: string) => void (await http.POST("/api/key", { body: { key } })),
};

/** A file as the body of a request, byte for byte. */
function bytes(file: File) {
  return {
    body: file as never,
    bodySerializer: (body: unknown) => body as BodyInit,
    headers: { "Content-Type": "application/octet-stream" },
  };
}

/** Where a file goes: a job of its own, a job that is there, or in place of one of its sources. */
export type Goal = { job: null } | { job: string; replaces?: { source: string; on: number } };

/** Send a file byte for byte. The only request with progress, which fetch cannot tell. */
export function sendFile(
  file: File,
  goal: Goal,
  progress: (share: number) => void,
  left?: AbortSignal,
): Promise<{ id: string }> {
  return new Promise((done, failed) => {
    const request = new XMLHttpRequest();
    request.open("POST", pathOf(file, goal));
    request.setRequestHeader(OWN_HEADER, "1");
    request.upload.onprogress = (event) => progress(event.total ? event.loaded / event.total : 0);
    request.onerror = () => failed(UNREACHED);
    request.onabort = () => failed(new Problem(0, LEFT, "you stopped it"));
    request.onload = () => {
      if (request.status === 201 || request.status === 202) done(JSON.parse(request.responseText) as { id: string });
      else failed(problemOf(request.status, request.responseText));
    };
    left?.addEventListener("abort", () => request.abort());
    request.send(file);
  });
}

function pathOf(file: File, goal: Goal): string {
  const name = `name=${encodeURIComponent(file.name)}`;
  if (goal.job === null) return `/api/jobs?${name}`;
  if (!goal.replaces) return `/api/jobs/${goal.job}/sources?${name}`;
  return `/api/jobs/${goal.job}/sources/${goal.replaces.source}/revision?${name}&on=${goal.replaces.on}`;
}
