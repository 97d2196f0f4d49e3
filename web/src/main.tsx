import "@fontsource-variable/figtree/wght.css";
import { QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter, Navigate, Route, Routes } from "react-router";
import { queries } from "./api/client";
import { Frame } from "./parts/frame";
import { GlobalStyle } from "./theme/theme";
import { Prepare } from "./views/prepare/prepare";
import { AttemptReview } from "./views/review/attempt-review";
import { Review } from "./views/review/review";
import { Tune } from "./views/tune/tune";

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <GlobalStyle />
      <QueryClientProvider client={queries}>
        <BrowserRouter>
          <Routes>
            <Route element={<Frame />}>
              <Route index element={<Prepare />} />
              <Route path="tune/:attempt" element={<Tune />} />
              <Route path="review" element={<Review />} />
              <Route path="review/:attempt" element={<AttemptReview />} />
              <Route path="*" element={<Navigate to="/" replace />} />
            </Route>
          </Routes>
        </BrowserRouter>
      </QueryClientProvider>
    </StrictMode>,
  );
}
