import { cleanup } from "@testing-library/react";
import { afterEach, beforeEach, vi } from "vitest";

// What the browser has and jsdom has not.
class Observer {
  observe() {}
  unobserve() {}
  disconnect() {}
}

beforeEach(() => {
  vi.stubGlobal("ResizeObserver", Observer);
  localStorage.clear();
});

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});
