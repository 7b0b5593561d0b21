import type { components } from "./schema";

type Schemas = components["schemas"];

export type JobView = Schemas["JobView"];
export type JobLine = Schemas["JobLine"];
export type Job = Schemas["Job"];
export type Body = Schemas["Body"];
export type BodySurvey = Schemas["BodySurvey"];
export type ChainRow = Schemas["ChainRow"];
export type Candidate = Schemas["Candidate"];
export type Reading = Schemas["Reading"];
export type Anchor = Schemas["Anchor"];
export type Finding = Schemas["Finding"];
export type SheetState = Schemas["SheetState"];
export type SheetName = SheetState["name"];
export type ErrandView = Schemas["ErrandView"];
export type ReleaseView = Schemas["ReleaseView"];
export type Machine = Schemas["Machine"];
export type Placement = Schemas["Placement"];
export type Unit = Schemas["Unit"];
export type Axis = ChainRow["axis"];
export type UserAction = Schemas["Act"]["action"];
export type ReleaseFormat = Schemas["AskRelease"]["format"];
export type Limits = Schemas["Limits"];
export type Vec3 = [number, number, number];
