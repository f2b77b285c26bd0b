import { api, take } from "../api/client";
import { usePartJob } from "../api/partJob";
import { Button } from "../ui/parts";
import { Attention } from "../ui/Worksheet";
import type { StationProps } from "./types";

/** What to do about a part that has no nominal. */
export function NoNominal({ piece, busy }: Pick<StationProps, "piece" | "busy">) {
  const job = usePartJob(piece.partId);
  return (
    <Attention>
      <p className="font-semibold">This part has no nominal yet.</p>
      <p>Drop its CAD or mesh file on the window.</p>
      <p className="mt-2">
        There is none? Then a scan of a good piece can serve as the reference: its surfaces are recognised, axes are
        laid along them, and other pieces are compared with it.
      </p>
      {piece.triangles > 0 ? (
        <Button
          className="mt-2"
          disabled={busy || job.running}
          onClick={() =>
            job.start(() =>
              take(
                api.POST("/api/parts/{id}/nominal/reference", {
                  params: { path: { id: piece.partId } },
                  body: { piece: piece.id },
                }),
              ),
            )
          }
        >
          {job.running ? "Recognising its surfaces …" : "Take this scan as the reference"}
        </Button>
      ) : (
        piece.vertices > 0 && <p className="mt-2">A cloud of points cannot be one: it has no surfaces.</p>
      )}
      {job.error && <p className="mt-2 text-bad">{job.error}</p>}
    </Attention>
  );
}
