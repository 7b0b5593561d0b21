import { lazy, Suspense } from "react";
import { Redirect, Route, Switch } from "wouter";
import type { SheetName } from "./api/types";
import { ConnectionBar } from "./blocks/ConnectionBar";
import { Guard } from "./blocks/Guard";
import { Announcer } from "./house/Announcer";
import { UploadsShown } from "./jobs/UploadsShown";
import { JobList } from "./jobs/JobList";
import { KeyGate } from "./key/KeyGate";

/** Loaded with the first job that is opened: the list of jobs needs no drawing. */
const JobPage = lazy(() => import("./job/JobPage").then(({ JobPage }) => ({ default: JobPage })));

const Examples = lazy(() => import("./blocks/Examples").then(({ Examples }) => ({ default: Examples })));

const SHEETS: SheetName[] = ["intake", "truing", "fit", "division", "seating", "release"];

export function App() {
  return (
    <Guard>
      <KeyGate>
        <Switch>
          <Route path="/examples">
            <Suspense fallback={null}>
              <Examples />
            </Suspense>
          </Route>
          <Route path="/">
            <JobList />
          </Route>
          <Route path="/jobs/:id/:sheet">
            {({ id, sheet }) =>
              SHEETS.includes(sheet as SheetName) ? (
                <Suspense fallback={null}>
                  <JobPage key={id} id={id} sheet={sheet as SheetName} />
                </Suspense>
              ) : (
                <Redirect to={`/jobs/${id}/intake`} />
              )
            }
          </Route>
          <Route path="/jobs/:id">{({ id }) => <Redirect to={`/jobs/${id}/intake`} />}</Route>
          <Route>
            <Redirect to="/" />
          </Route>
        </Switch>
        <UploadsShown />
        <ConnectionBar />
        <Announcer />
      </KeyGate>
    </Guard>
  );
}
