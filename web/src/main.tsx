import "@fontsource-variable/figtree/wght.css";
import { QueryClientProvider } from "@tanstack/react-query";
import { lazy, StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Navigate, Route, Routes, useLocation } from "react-router";
import { queries } from "./api/client";
import { Frame } from "./parts/frame";
import { LEARNER } from "./parts/use-learner";
import { GlobalStyle } from "./theme/theme";
import { Tune } from "./views/tune/tune";
import { FirstPage } from "./today/first-page";
import { TODAY } from "./today/use-today";
import { loadNames } from "./words/names";

// The first page comes alone with the bench: the rest is fetched when it is asked for.
const InstrumentsFrame = lazy(async () => ({
  default: (await import("./views/instruments/instruments-frame")).InstrumentsFrame,
}));
const ChooseMethod = lazy(async () => ({
  default: (await import("./views/instruments/choose-method")).ChooseMethod,
}));
const Before = lazy(async () => ({ default: (await import("./views/instruments/before")).Before }));
const Fitness = lazy(async () => ({
  default: (await import("./views/instruments/fitness")).Fitness,
}));
const PlanView = lazy(async () => ({
  default: (await import("./views/instruments/plan")).PlanView,
}));
const Compare = lazy(async () => ({
  default: (await import("./views/instruments/compare")).Compare,
}));
const Retune = lazy(async () => ({ default: (await import("./views/instruments/retune")).Retune }));

const Choose = lazy(async () => ({ default: (await import("./views/choose/choose")).Choose }));
const Review = lazy(async () => ({ default: (await import("./views/review/review")).Review }));
const AttemptReview = lazy(async () => ({
  default: (await import("./views/review/attempt-review")).AttemptReview,
}));
const RubricView = lazy(async () => ({
  default: (await import("./views/review/rubric")).RubricView,
}));
const ReplayView = lazy(async () => ({
  default: (await import("./views/review/replay")).ReplayView,
}));

const Licences = lazy(async () => ({
  default: (await import("./views/licences/licences")).Licences,
}));

const Listen = lazy(async () => ({ default: (await import("./views/listen/listen")).Listen }));
const Sitting = lazy(async () => ({ default: (await import("./views/listen/sitting")).Sitting }));

const Account = lazy(async () => ({ default: (await import("./views/account/account")).Account }));

const Shared = lazy(async () => ({ default: (await import("./views/account/shared")).Shared }));
const Teach = lazy(async () => ({ default: (await import("./views/teach/teach")).Teach }));
const StudioFrame = lazy(async () => ({
  default: (await import("./views/teach/studio-frame")).StudioFrame,
}));
const Pupils = lazy(async () => ({ default: (await import("./views/teach/pupils")).Pupils }));
const Pupil = lazy(async () => ({ default: (await import("./views/teach/pupil")).Pupil }));
const Shelf = lazy(async () => ({ default: (await import("./views/teach/shelf")).Shelf }));
const Settings = lazy(async () => ({ default: (await import("./views/teach/settings")).Settings }));
const Exercises = lazy(async () => ({
  default: (await import("./views/teach/exercises")).Exercises,
}));
const TeachExercise = lazy(async () => ({
  default: (await import("./views/teach/exercise")).Exercise,
}));
const Results = lazy(async () => ({ default: (await import("./views/teach/results")).Results }));
const SetTaskView = lazy(async () => ({ default: (await import("./views/set/set")).SetTaskView }));
const ClassSteps = lazy(async () => ({
  default: (await import("./views/teach/class-steps")).ClassSteps,
}));
const Steps = lazy(async () => ({ default: (await import("./views/steps/steps")).Steps }));
const Rounds = lazy(async () => ({ default: (await import("./views/teach/rounds")).Rounds }));
const Concerts = lazy(async () => ({ default: (await import("./views/teach/concerts")).Concerts }));
const Concert = lazy(async () => ({ default: (await import("./views/teach/concert")).Concert }));
const LeadRound = lazy(async () => ({
  default: (await import("./views/teach/lead-round")).LeadRound,
}));
const Judge = lazy(async () => ({ default: (await import("./views/round/judge")).Judge }));
const Parents = lazy(async () => ({ default: (await import("./views/parents/parents")).Parents }));
const Do = lazy(async () => ({ default: (await import("./views/set/do")).Do }));
const Join = lazy(async () => ({ default: (await import("./views/teach/join")).Join }));

const Shows = lazy(async () => ({ default: (await import("./views/shows/shows")).Shows }));

const Glossary = lazy(async () => ({
  default: (await import("./views/glossary/glossary")).Glossary,
}));

const FONT_WITHIN_MS = 1000;
const NAMES_AGAIN_MS = 1500;

/** The type is there before the page is: a button must not move away from under the first press. */
function typeIsThere(): Promise<unknown> {
  const late = new Promise((done) => setTimeout(done, FONT_WITHIN_MS));
  return Promise.race([document.fonts.load('1rem "Figtree Variable"').catch(() => null), late]);
}

/** So are the names of what can be chosen. While the server does not answer, that is said. */
async function namesAreThere(root: HTMLElement): Promise<void> {
  for (;;) {
    try {
      return await loadNames();
    } catch (error) {
      root.textContent = (error as Error).message;
      await new Promise((again) => setTimeout(again, NAMES_AGAIN_MS));
    }
  }
}

/** What was an address under Prepare is one under Instruments. */
function MovedToInstruments() {
  const { pathname, search } = useLocation();
  return <Navigate to={pathname.replace(/^\/prepare/, "/instruments") + search} replace />;
}

const root = document.getElementById("root");
if (root) {
  const page = createRoot(root);
  const draw = () =>
    page.render(
      <StrictMode>
        <GlobalStyle />
        <QueryClientProvider client={queries}>
          <BrowserRouter>
            <Routes>
              <Route element={<Frame />}>
                <Route index element={<FirstPage />} />
                <Route path="prepare/*" element={<MovedToInstruments />} />
                <Route path="instruments" element={<InstrumentsFrame />}>
                  <Route index element={<Navigate to="method" replace />} />
                  <Route path="before" element={<Before />} />
                  <Route path="method" element={<ChooseMethod />} />
                  <Route path="fitness" element={<Fitness />} />
                  <Route path="plan" element={<PlanView />} />
                  <Route path="compare" element={<Compare />} />
                  <Route path="retune" element={<Retune />} />
                </Route>
                <Route path="tune" element={<Choose />} />
                <Route path="tune/:attempt" element={<Tune />} />
                <Route path="account" element={<Account />} />
                <Route path="shared" element={<Shared />} />
                <Route path="join" element={<Join />} />
                <Route path="parents" element={<Parents />} />
                <Route path="round/:code" element={<Judge />} />
                <Route path="do" element={<Do />} />
                <Route path="set/:key" element={<SetTaskView />} />
                <Route path="teach" element={<Teach />} />
                <Route path="teach/:studio" element={<StudioFrame />}>
                  <Route index element={<Pupils />} />
                  <Route path="pupils/:member" element={<Pupil />} />
                  <Route path="exercises" element={<Exercises />} />
                  <Route path="exercises/:task" element={<TeachExercise />} />
                  <Route path="given/:given" element={<Results />} />
                  <Route path="steps" element={<ClassSteps />} />
                  <Route path="rounds" element={<Rounds />} />
                  <Route path="rounds/:round" element={<LeadRound />} />
                  <Route path="concerts" element={<Concerts />} />
                  <Route path="concerts/:concert" element={<Concert />} />
                  <Route path="instruments" element={<Navigate to="../shelf" replace />} />
                  <Route path="shelf" element={<Shelf />} />
                  <Route path="studio" element={<Settings />} />
                </Route>
                <Route path="show" element={<Shows />} />
                <Route path="steps" element={<Steps />} />
                <Route path="listen" element={<Listen />} />
                <Route path="listen/:sitting" element={<Sitting />} />
                <Route path="review" element={<Review />} />
                <Route path="review/rubric" element={<RubricView />} />
                <Route path="review/:attempt" element={<AttemptReview />} />
                <Route path="review/:attempt/replay" element={<ReplayView />} />
                <Route path="words" element={<Glossary />} />
                <Route path="licences" element={<Licences />} />
                <Route path="*" element={<Navigate to="/" replace />} />
              </Route>
            </Routes>
          </BrowserRouter>
        </QueryClientProvider>
      </StrictMode>,
    );
  if (location.pathname === "/") void queries.prefetchQuery(TODAY); // beside the names
  const who = queries.prefetchQuery(LEARNER); // the bar does not change once it stands
  void Promise.all([typeIsThere(), namesAreThere(root), who]).then(draw);
}
