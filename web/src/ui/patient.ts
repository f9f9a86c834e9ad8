/** Loaded before every drawn test: what is waited for may take as long as a busy machine needs. The library's own second says nothing about the page. */
import { configure } from "@testing-library/react";

configure({ asyncUtilTimeout: 60_000 });
