import type { components } from "./schema";
import { api, kept, take } from "./wire";

export type Practice = components["schemas"]["Practice"];
export type Head = components["schemas"]["HeadLine"];
export type Exercise = components["schemas"]["ExerciseOut"];
export type Marked = components["schemas"]["MarkedOut"];
export type Paper = components["schemas"]["PaperLine"];
export type PaperIn = components["schemas"]["PaperIn"];
export type Result = components["schemas"]["Result"];
export type Answers = Record<string, number | null>;

const ofSet = (id: string) => ({ params: { path: { set_id: id } } });

/** What there is to practise; with no server as it was told of last: exercises are made and marked on this device then, and count for nothing. */
export const practice = (book: string) =>
  kept(`practice/${book}`, () => take(api.GET("/api/practice", { params: { query: { book } } })));
export const exercise = (body: { head: string; book: string; seed: number | null; tables: boolean }) =>
  take(api.POST("/api/practice/exercises", { body }));
export const markExercise = (body: { head: string; book: string; seed: number; answers: Answers }) =>
  take(api.POST("/api/practice/marks", { body }));
export const practicePapers = () => take(api.GET("/api/practice/papers"));
export const setPaper = (body: PaperIn) => take(api.POST("/api/practice/papers", { body }));
export const takePaperBack = (id: string) => take(api.DELETE("/api/practice/papers/{set_id}", ofSet(id)));
export const sitPaper = (id: string) => take(api.POST("/api/practice/papers/{set_id}/sitting", ofSet(id)));
export const handPaperIn = (id: string, answers: Answers[]) =>
  take(api.POST("/api/practice/papers/{set_id}/hand-in", { ...ofSet(id), body: { answers } }));
export const paperResults = (id: string) => take(api.GET("/api/practice/papers/{set_id}/results", ofSet(id)));
export const printedPaper = (id: string) => take(api.GET("/api/practice/papers/{set_id}/print", ofSet(id)));
