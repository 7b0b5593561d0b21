import { newestHeld, received } from "./held";
import type { Arrival, BulkRow, CardState, CardSettings, Drive, ReceivingHabits, HandoverView, PutView, TargetView, Difference, Patterns, Preview, ProofSheet, VerifiedFile, JobAnswer, AskCalibration, AskRelease, CalibrationView, Comparison, FeatureLine, ImportedReadings, JobLine, CaliperTyping, JobView, UploadLimits, ReleaseDetail, Material, UserAction, Task, FirstLayer, Layer, Layers, Machine, MachineView, MirrorReport, Plan, TriedMove, WayToStand, Anchor, AskInside, AskPieces, Axis, TrueOutline, PieceDrawn, PrintedReading, DivisionPreview, SeamsShown, ProposedCut, TrialAround } from "./types";

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

const UNREACHED = new Problem(0, "unreached", "the server does not answer", "", "see whether it still runs, then try again");

/** On every request: a page of another site cannot have it sent. */
const OWN_HEADER = "X-Aim-True";

/** Told to the window when the server wants its key. */
export const KEY_WANTED = "aimtrue-key-wanted";

async function ask(path: string, init?: RequestInit): Promise<Response> {
  const answer = await fetch(`/api${path}`, { ...init, headers: { ...init?.headers, [OWN_HEADER]: "1" } }).catch(() => {
    throw UNREACHED;
  });
  if (answer.status === 401) window.dispatchEvent(new Event(KEY_WANTED));
  if (!answer.ok) throw problemOf(answer.status, await answer.text());
  return answer;
}

async function send<T>(path: string, init?: RequestInit): Promise<T> {
  return (await (await ask(path, init)).json()) as T;
}

function problemOf(status: number, body: string): Problem {
  try {
    const told = JSON.parse(body) as Record<"code" | "says" | "where" | "remedy", string>;
    return new Problem(status, told.code, told.says, told.where, told.remedy);
  } catch {
    return new Problem(status, "server", "the server's answer is not understood", "", "reload the page");
  }
}

/** Ask something that is answered with a job, or with what changed since the answer that is held. */
async function job(id: string, path = "", body?: unknown): Promise<JobView> {
  const init: RequestInit = body === undefined ? {} : { method: "POST", body: JSON.stringify(body) };
  const headers = { "Content-Type": "application/json", Seen: newestHeld(id) };
  const view = received(id, await send<JobAnswer>(`/jobs/${id}${path}`, { ...init, headers }));
  return view ?? received(id, await send<JobAnswer>(`/jobs/${id}`))!;
}

function post<T>(path: string, body: unknown): Promise<T> {
  return send<T>(path, {
    method: "POST",
    headers: { "Content-Type": "application/json" },
    body: JSON.stringify(body),
  });
}

export const api = {
  jobs: () => send<JobLine[]>("/jobs"),
  job: (id: string) => job(id),
  releaseFiles: (id: string, number: number) => send<ReleaseDetail>(`/jobs/${id}/releases/${number}`),
  previewRelease: (id: string, asked: AskRelease, shown: number) => post<Preview>(`/jobs/${id}/releases/preview`, { ...asked, shown }),
  patterns: () => send<Patterns>("/patterns"),
  forgetPattern: (pattern: string) => post<Patterns>("/patterns/forget", { pattern }),
  releaseChanges: (id: string, number: number) => send<Difference[]>(`/jobs/${id}/releases/${number}/changes`),
  backToRelease: (id: string, on: number, number: number) => job(id, `/releases/${number}/back`, { on }),
  proofSheet: (id: string, number: number) => send<ProofSheet>(`/jobs/${id}/releases/${number}/sheet`),
  verify: (id: string, number: number, file: File) => send<VerifiedFile>(`/jobs/${id}/releases/${number}/verify?name=${encodeURIComponent(file.name)}`, { method: "POST", body: file }),
  releaseMany: (jobs: string[], asked: AskRelease) => post<BulkRow[]>("/bulk/releases", { ...asked, jobs }),
  manyNow: (rows: BulkRow[]) => post<BulkRow[]>("/bulk/state", { rows }),
  drives: () => send<Drive[]>("/drives"),
  card: () => send<CardState>("/standins/card"),
  setCard: (settings: CardSettings) => send<CardState>("/standins/card", { method: "PUT", headers: { "Content-Type": "application/json" }, body: JSON.stringify(settings) }),
  useCard: (what: "eject" | "put-in" | "empty") => post<CardState>(`/standins/card/${what}`, {}),
  putDown: (id: string, number: number, drive: string, replace: boolean) => post<PutView>(`/jobs/${id}/releases/${number}/put`, { drive, replace }),
  targets: () => send<TargetView[]>("/targets"),
  sendTo: (id: string, number: number, target: string, again: boolean) => job(id, `/releases/${number}/send`, { target, again }),
  handovers: (id: string, number: number) => send<HandoverView[]>(`/jobs/${id}/releases/${number}/handovers`),
  receive: (id: string, number: number, habits: ReceivingHabits) => post<Arrival>(`/jobs/${id}/releases/${number}/receive`, habits),
  removeJob: async (id: string) => void (await ask(`/jobs/${id}`, { method: "DELETE" })),
  limits: () => send<UploadLimits>("/limits"),
  act: (id: string, on: number, action: UserAction) => job(id, "/actions", { on, action }),
  undo: (id: string, on: number) => job(id, "/undo", { on }),
  redo: (id: string, on: number) => job(id, "/redo", { on }),
  release: (id: string, on: number, asked: AskRelease) => job(id, "/releases", { on, ...asked }),
  work: (id: string, on: number, work: Task, begin = true) => job(id, "/work", { on, work, begin }),
  features: (id: string, body: string) => send<FeatureLine[]>(`/jobs/${id}/bodies/${body}/features`),
  importReadings: (id: string, on: number, body: string, text: string) => post<ImportedReadings>(`/jobs/${id}/readings`, { on, body, text }),
  compare: (id: string, subject: string) => send<Comparison>(`/jobs/${id}/compare/${subject}`),
  materials: () => send<Material[]>("/materials"),
  calibrations: () => send<CalibrationView[]>("/calibrations"),
  calibrate: (asked: AskCalibration) => post<CalibrationView>("/calibrations", asked),
  forget: (number: number) => send<CalibrationView[]>(`/calibrations/${number}`, { method: "DELETE" }),
  pressCaliper: (jaws: string) => post<CaliperTyping>("/standins/caliper", { jaws }),
  machines: () => send<MachineView[]>("/machines"),
  addMachine: (machine: Machine) => post<MachineView>("/machines", machine),
  changeMachine: (number: number, machine: Machine) => send<MachineView>(`/machines/${number}`, { method: "PUT", headers: { "Content-Type": "application/json" }, body: JSON.stringify(machine) }),
  removeMachine: (number: number) => send<MachineView[]>(`/machines/${number}`, { method: "DELETE" }),
  plan: (id: string, plate: string) => send<Plan>(`/jobs/${id}/plates/${plate}/plan`),
  layers: (id: string, plate: string) => send<Layers>(`/jobs/${id}/plates/${plate}/layers`),
  layer: (id: string, plate: string, number: number) => send<Layer>(`/jobs/${id}/plates/${plate}/layers/${number}`),
  ways: (id: string, body: string, copy: number, wish: string) => send<WayToStand[]>(`/jobs/${id}/seats/${body}/${copy}/ways?wish=${wish}`),
  firstLayer: (id: string, body: string, copy: number) => send<FirstLayer>(`/jobs/${id}/seats/${body}/${copy}/first-layer`),
  tryMove: (id: string, body: string, copy: number, dx: number, dy: number, turn: number) => send<TriedMove>(`/jobs/${id}/seats/${body}/${copy}/try?dx=${dx}&dy=${dy}&turn=${turn}`),
  mirrored: (id: string, body: string) => send<MirrorReport[]>(`/jobs/${id}/seats/${body}/mirrored`),
  seams: (id: string, body: string, axis: Axis) => send<SeamsShown>(`/jobs/${id}/division/${body}/seams/${axis}`),
  tryDivision: (id: string, body: string, asked: AskPieces, machine: Machine | null) => post<DivisionPreview>(`/jobs/${id}/division/${body}/try`, { asked, machine }),
  planeOn: (id: string, body: string, face: number) => send<ProposedCut>(`/jobs/${id}/division/${body}/face/${face}`),
  apart: (id: string, body: string, asked: AskPieces) => post<PieceDrawn[]>(`/jobs/${id}/division/${body}/apart`, asked),
  placed: (id: string, body: string, asked: AskInside) => post<number[][][]>(`/jobs/${id}/division/${body}/placed`, asked),
  planeBy: (id: string, body: string, places: Anchor[]) => post<ProposedCut>(`/jobs/${id}/division/${body}/places`, { places }),
  outline: (id: string, body: string, axis: Axis, at: string) => send<TrueOutline>(`/jobs/${id}/division/${body}/outline/${axis}?at=${encodeURIComponent(at)}`),
  printed: (id: string, division: string) => send<PrintedReading[]>(`/jobs/${id}/division/${division}/printed`),
  calibrateBy: (id: string, division: string) => post<CalibrationView>(`/jobs/${id}/division/${division}/calibration`, {}),
  around: (id: string, reading: string) => send<TrialAround>(`/jobs/${id}/division/around/${reading}`),
  stop: async (id: string, task: number) => void (await ask(`/jobs/${id}/tasks/${task}/stop`, { method: "POST" })),
  mesh: async (name: string) => (await ask(`/${name}`)).arrayBuffer(),
  giveKey: async (key: string) =>
    void (await ask("/key", { method: "POST", headers: { "Content-Type": "application/json" }, body: JSON.stringify({ key }) })),
};

/** Where a file goes: a job of its own, a job that is there, or in place of one of its sources. */
export type Goal = { job: null } | { job: string; replaces?: { source: string; on: number } };

/** Send a file byte for byte. The only request with progress, which fetch cannot tell. */
export function sendFile(file: File, goal: Goal, progress: (share: number) => void): Promise<{ id: string }> {
  return new Promise((done, failed) => {
    const request = new XMLHttpRequest();
    request.open("POST", pathOf(file, goal));
    request.setRequestHeader(OWN_HEADER, "1");
    request.upload.onprogress = (event) => progress(event.total ? event.loaded / event.total : 0);
    request.onerror = () => failed(UNREACHED);
    request.onload = () => {
      if (request.status === 201 || request.status === 202) done(JSON.parse(request.responseText) as { id: string });
      else failed(problemOf(request.status, request.responseText));
    };
    request.send(file);
  });
}

function pathOf(file: File, goal: Goal): string {
  const name = `name=${encodeURIComponent(file.name)}`;
  if (goal.job === null) return `/api/jobs?${name}`;
  if (!goal.replaces) return `/api/jobs/${goal.job}/sources?${name}`;
  return `/api/jobs/${goal.job}/sources/${goal.replaces.source}/revision?${name}&on=${goal.replaces.on}`;
}
