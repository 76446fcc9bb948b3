/** Names for the types generated from the service's own description; nothing is defined here. */
import type { components } from "./schema";

type Schemas = components["schemas"];

export type JobState = Schemas["JobState"];
export type JobSummary = Schemas["JobList.JobSummary"];
export type RunState = Schemas["RunState"];
export type SessionState = Schemas["SessionState"];
export type PlanRequest = Schemas["JobState.PlanRequest"];
export type PlanResult = Schemas["JobState.PlanResult"];
export type Design = Schemas["JobState.Design"];
export type Drawing = Schemas["JobState.StationDrawing"];
export type PlacedStation = Schemas["JobState.PlacedStation"];
export type Limit = Schemas["JobState.Limit"];
export type Figure = Schemas["JobState.Figure"];
export type Contact = Schemas["JobState.Contact"];
export type KeepOut = Schemas["JobState.KeepOut"];
export type Catalogue = Schemas["Catalogue"];
export type Person = Schemas["Person"];
export type Me = Schemas["SessionState.Me"];
export type Units = Me["units"];
