import { expect, it } from "vitest";
import { pickedFaces } from "./picking";

it("a click picks one face, with Shift one more or one less", () => {
  expect(pickedFaces([1, 2], 5, false)).toEqual([5]);
  expect(pickedFaces([1, 2], 5, true)).toEqual([1, 2, 5]);
  expect(pickedFaces([1, 2, 5], 2, true)).toEqual([1, 5]);
});
