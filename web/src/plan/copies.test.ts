import { expect, test } from "vitest";
import { newCopy, whereTo } from "./copies";

test("a copy is told by where it goes", () => {
  expect(whereTo(newCopy("mail", " shop@works.example "))).toBe("Mail to shop@works.example");
  expect(whereTo(newCopy("folder", "Customer 4"))).toBe("Folder Customer 4");
  expect(whereTo(newCopy("folder", ""))).toBe("Delivery folder");
});

test("a new copy has the report in it; a letter goes where something is open", () => {
  expect(newCopy("mail", "a@b.example")).toMatchObject({ files: ["pdf"], when: "open" });
  expect(newCopy("folder", "")).toMatchObject({ files: ["pdf"], when: "always" });
});
