import "./styles.css";

import { QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Navigate, Route, Routes } from "react-router";

import { queries } from "./api/queries";
import { Desk } from "./lesson/Desk";
import { Practice } from "./practice/Practice";
import { Shelf } from "./shelf/Shelf";
import { NotFound } from "./ui/NotFound";

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <BrowserRouter>
          <Routes>
            <Route path="/" element={<Navigate to="/shelf" replace />} />
            <Route path="/shelf" element={<Shelf />} />
            <Route path="/desk/:lessonId/:place?" element={<Desk />} />
            <Route path="/practice/:lessonId/:place?" element={<Practice />} />
            <Route path="*" element={<NotFound />} />
          </Routes>
        </BrowserRouter>
      </QueryClientProvider>
    </StrictMode>,
  );
}
