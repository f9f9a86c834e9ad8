/**
 * Loaded before every file of drawn tests. What is waited for may take as long as a busy machine needs: the library's own second says
 * nothing about the page. The files share one page, for making one costs more than most of their tests; no file sees what another put in
 * the place of a module.
 */
import { configure } from "@testing-library/react";
import { vi } from "vitest";

configure({ asyncUtilTimeout: 60_000 });
vi.resetModules();
