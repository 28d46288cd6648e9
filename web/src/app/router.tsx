import { lazy, Suspense } from "react";
import { createBrowserRouter, Outlet } from "react-router";
import { Ask } from "./Ask";
import { Boundary } from "./Boundary";
import { Home, Latest } from "./Home";
import { Shell } from "./Shell";

const Place = lazy(() => import("../stages/place/Place"));
const Shape = lazy(() => import("../stages/shape/Shape"));
const Sift = lazy(() => import("../stages/shape/sift/Sift"));
const Skin = lazy(() => import("../stages/skin/Skin"));
const Use = lazy(() => import("../stages/use/Use"));
const Plant = lazy(() => import("../stages/plant/Plant"));
const Study = lazy(() => import("../stages/study/Study"));
const Assumed = lazy(() => import("../stages/assumed/Assumed"));
const Findings = lazy(() => import("../stages/findings/Findings"));

const Guide = lazy(() => import("./guide/Guide"));

function Root() {
  return (
    <Boundary>
      <Suspense fallback={null}>
        <Outlet />
        <Ask />
      </Suspense>
    </Boundary>
  );
}

export const router = createBrowserRouter([
  {
    element: <Root />,
    children: [
      { path: "/", element: <Latest /> },
      { path: "/projects", element: <Home /> },
      { path: "/guide/:part?", element: <Guide /> },
      {
        path: "/p/:project",
        element: <Shell />,
        children: [
          { path: "place/:scheme?", element: <Place /> },
          { path: "shape/:scheme?", element: <Shape /> },
          { path: "shape/:scheme/import/:import", element: <Sift /> },
          { path: "skin/:scheme?", element: <Skin /> },
          { path: "use/:scheme?", element: <Use /> },
          { path: "plant/:scheme?", element: <Plant /> },
          { path: "assumed/:scheme?", element: <Assumed /> },
          { path: "study/:scheme?", element: <Study /> },
          { path: "findings/:scheme?", element: <Findings /> },
        ],
      },
      { path: "*", element: <Home /> },
    ],
  },
]);
