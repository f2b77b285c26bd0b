import type { MethodPlan } from "./methods";

type Points = NonNullable<MethodPlan<"reference-points">["points"]>;

/**
 * Reference points from cells of a spreadsheet or a text: a name, a place and a direction, and a weight if there is one, a
 * line each. Decimal commas are read where cells are parted by tabs or semicolons.
 * @returns The points, or one sentence that names the line at fault.
 */
export function pastedPoints(text: string): { points: Points } | { fault: string } {
  const points: Points = [];
  for (const [i, line] of text.split(/\r?\n/).entries()) {
    if (line.trim() === "") {
      continue;
    }

    const wide = /[\t;]/.test(line);
    const cells = (wide ? line.split(/[\t;]/) : line.trim().split(/[\s,]+/)).map((c) => c.trim());
    const named = Number.isNaN(number(cells[0], wide));
    const numbers = (named ? cells.slice(1) : cells).filter((c) => c !== "").map((c) => number(c, wide));
    if (i === 0 && named && numbers.every(Number.isNaN)) {
      continue; // The names of the columns.
    }

    if (numbers.length < 6 || numbers.length > 7 || numbers.some(Number.isNaN)) {
      return {
        fault: `Line ${i + 1}: a name, x, y, z, a direction of three numbers, and a weight if any, are needed.`,
      };
    }

    const direction = numbers.slice(3, 6);
    const length = Math.hypot(...direction);
    if (!(length > 0)) {
      return { fault: `Line ${i + 1}: the direction has no length.` };
    }

    const weight = numbers[6] ?? 1;
    if (!(weight > 0)) {
      return { fault: `Line ${i + 1}: the weight must be above 0.` };
    }

    points.push({
      name: named && cells[0] !== "" ? cells[0] : `P${points.length + 1}`,
      point: numbers.slice(0, 3),
      direction: direction.map((v) => v / length),
      weight,
      offset: 0,
    });
  }

  return points.length > 0 ? { points } : { fault: "There is no line with numbers." };
}

const number = (cell: string, comma: boolean) => (cell === "" ? NaN : Number(comma ? cell.replace(",", ".") : cell));
