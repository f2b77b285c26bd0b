import { X } from "lucide-react";
import { useNotices } from "../ui/notices";

export function Notices() {
  const { notices, drop } = useNotices();
  return (
    <div className="fixed bottom-10 left-1/2 z-60 w-[520px] max-w-[90vw] -translate-x-1/2 space-y-2" aria-live="polite">
      {notices.map((n) => (
        <div
          key={n.id}
          role={n.tone === "bad" ? "alert" : "status"}
          className={`flex items-start gap-2 rounded border bg-panel p-3 shadow ${n.tone === "bad" ? "border-bad text-bad" : "border-line"}`}
        >
          <span className="flex-1">{n.text}</span>
          <button
            type="button"
            aria-label="Close message"
            onClick={() => drop(n.id)}
            className="rounded p-0.5 hover:bg-tint"
          >
            <X size={14} />
          </button>
        </div>
      ))}
    </div>
  );
}
