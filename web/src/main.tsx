import "./styles.css";

import { QueryClientProvider } from "@tanstack/react-query";
import { lazy, StrictMode, Suspense } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Navigate, Route, Routes } from "react-router";

import { Gate } from "./account/Gate";
import { queries } from "./api/queries";
import { Shelf } from "./shelf/Shelf";
import { followGround } from "./ui/ground";
import { Guarded } from "./ui/Guarded";
import { NotFound } from "./ui/NotFound";
import { Waiting } from "./ui/Waiting";

// what the first screen does not need is fetched when it is
const AccountScreen = lazy(async () => ({
  default: (await import("./account/AccountScreen")).AccountScreen,
}));
const ClassesScreen = lazy(async () => ({
  default: (await import("./classes/ClassesScreen")).ClassesScreen,
}));
const ClassScreen = lazy(async () => ({ default: (await import("./classes/ClassScreen")).ClassScreen }));
const WorkScreen = lazy(async () => ({ default: (await import("./classes/WorkScreen")).WorkScreen }));
const Desk = lazy(async () => ({ default: (await import("./lesson/Desk")).Desk }));
const Practice = lazy(async () => ({ default: (await import("./practice/Practice")).Practice }));
const SeriesScreen = lazy(async () => ({ default: (await import("./shelf/SeriesScreen")).SeriesScreen }));

followGround();

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <BrowserRouter>
          <Guarded what="This page" onRetry={() => window.location.reload()}>
            <Gate>
              <Suspense fallback={<Waiting>One moment…</Waiting>}>
                <Routes>
                  <Route path="/account" element={<AccountScreen />} />
                  <Route path="/" element={<Navigate to="/shelf" replace />} />
                  <Route path="/shelf" element={<Shelf />} />
                  <Route path="/classes" element={<ClassesScreen />} />
                  <Route path="/classes/:classId" element={<ClassScreen />} />
                  <Route path="/classes/:classId/:lessonId" element={<WorkScreen />} />
                  <Route path="/series/:seriesId" element={<SeriesScreen />} />
                  <Route path="/desk/:lessonId/:place?" element={<Desk />} />
                  <Route path="/practice/:lessonId/:place?" element={<Practice />} />
                  <Route path="*" element={<NotFound />} />
                </Routes>
              </Suspense>
            </Gate>
          </Guarded>
        </BrowserRouter>
      </QueryClientProvider>
    </StrictMode>,
  );
}
