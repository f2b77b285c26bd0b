import { useState } from "react";
import { useBench } from "./bench";

/** The report as it would be issued, over the stage; it runs no script and reaches nothing outside itself. */
export function ShownPage() {
  const page = useBench((s) => s.page);
  const [there, setThere] = useState<string | null>(null);
  if (page === null) {
    return null;
  }

  return (
    <div className="absolute inset-0 z-20 bg-page p-3" data-testid="report-page" data-ready={there === page}>
      {there !== page && (
        <p role="status" className="absolute inset-x-0 top-6 text-center text-soft">
          Drawing the report …
        </p>
      )}
      <iframe
        title="The report as it would be issued"
        src={page}
        sandbox=""
        onLoad={() => setThere(page)}
        className="mx-auto h-full w-full max-w-[860px] border border-line bg-white"
      />
    </div>
  );
}
