import "./styles.css";

import { QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Navigate, Route, Routes } from "react-router";

import { AccountScreen } from "./account/AccountScreen";
import { Gate } from "./account/Gate";
import { queries } from "./api/queries";
import { Desk } from "./lesson/Desk";
import { Practice } from "./practice/Practice";
import { SeriesScreen } from "./shelf/SeriesScreen";
import { Shelf } from "./shelf/Shelf";
import { NotFound } from "./ui/NotFound";

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <BrowserRouter>
          <Gate>
            <Routes>
              <Route path="/account" element={<AccountScreen />} />
              <Route path="/" element={<Navigate to="/shelf" replace />} />
              <Route path="/shelf" element={<Shelf />} />
              <Route path="/series/:seriesId" element={<SeriesScreen />} />
              <Route path="/desk/:lessonId/:place?" element={<Desk />} />
              <Route path="/practice/:lessonId/:place?" element={<Practice />} />
              <Route path="*" element={<NotFound />} />
            </Routes>
          </Gate>
        </BrowserRouter>
      </QueryClientProvider>
    </StrictMode>,
  );
}
