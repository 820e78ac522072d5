import "fake-indexeddb/auto";
import { cleanup, configure } from "@testing-library/react";
import { afterEach, beforeEach, vi } from "vitest";

// A busy two-core machine is slow; a test waits for what happens, not for a time.
configure({ asyncUtilTimeout: 10_000 });

// What the browser has and jsdom has not.
class Observer {
  observe() {}
  unobserve() {}
  disconnect() {}
}

beforeEach(() => {
  vi.stubGlobal("ResizeObserver", Observer);
  // A wide window.
  const wide = { matches: true, addListener: () => undefined, removeListener: () => undefined };
  vi.stubGlobal("matchMedia", () => wide);
  localStorage.clear();
});

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});
