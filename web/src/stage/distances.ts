/** A place that was picked, in nominal coordinates. */
export interface Place {
  /** On the scan. */
  point: readonly number[];
  /** Beneath it on the nominal; null where none is. */
  nominal: readonly number[] | null;
  face: number | null;
}

/** What a face tells of a distance: a plane has a point and a normal. */
interface Face {
  kind: string;
  numbers: readonly number[] | null;
}

export interface Distance {
  /** On the scan, straight. */
  straight: number;
  /** The same along x, y and z. */
  along: readonly number[];
  /** Between the places beneath them on the nominal. */
  nominal: number | null;
  /** From the first place on the scan square to the plane of the nominal on which the second lies. */
  toPlane: number | null;
  /** Between the planes on which both lie on the nominal, degrees from 0 to 90. */
  angle: number | null;
}

const minus = (a: readonly number[], b: readonly number[]) => a.map((v, i) => v - b[i]);
const dot = (a: readonly number[], b: readonly number[]) => a.reduce((sum, v, i) => sum + v * b[i], 0);
const cross = (a: readonly number[], b: readonly number[]) =>
  [0, 1, 2].map((i) => a[(i + 1) % 3] * b[(i + 2) % 3] - a[(i + 2) % 3] * b[(i + 1) % 3]);

/** Between two places, and between what they lie on. */
export function distanceBetween(a: Place, b: Place, faces: readonly Face[]): Distance {
  const along = minus(b.point, a.point);
  const [planeA, planeB] = [a, b].map(({ face }) => (face === null ? null : plane(faces[face])));
  return {
    straight: Math.hypot(...along),
    along,
    nominal: a.nominal && b.nominal ? Math.hypot(...minus(b.nominal, a.nominal)) : null,
    toPlane: planeB && a.face !== b.face ? Math.abs(dot(planeB.normal, minus(a.point, planeB.point))) : null,
    // By sine and cosine: a cosine alone knows small angles badly.
    angle:
      planeA && planeB && a.face !== b.face
        ? (Math.atan2(Math.hypot(...cross(planeA.normal, planeB.normal)), Math.abs(dot(planeA.normal, planeB.normal))) *
            180) /
          Math.PI
        : null,
  };
}

const plane = (face: Face | undefined) =>
  face?.kind === "plane" && face.numbers ? { point: face.numbers.slice(0, 3), normal: face.numbers.slice(3, 6) } : null;
