import { describe, expect, test } from "vitest";
import { Problem, problemFrom } from "./problem";

describe("a refusal of the server", () => {
  test("keeps its code, its sentence and its whole body", () => {
    const body = { code: "stale", message: "Changed elsewhere.", version: 7 };
    const problem = problemFrom(409, body);
    expect([problem.status, problem.code, problem.message, problem.body]).toEqual([409, "stale", "Changed elsewhere.", body]);
    expect(problem).toBeInstanceOf(Problem);
  });

  test("without words of its own says that nothing was lost", () => {
    expect(problemFrom(500, undefined).message).toMatch(/\(500\).*nothing was lost/);
    expect(problemFrom(502, "<html>").code).toBe("error");
  });
});
