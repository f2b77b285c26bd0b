import { X } from "lucide-react";
import { Toast } from "radix-ui";
import { useNotices } from "../ui/notices";

const box = "pointer-events-none flex items-start gap-2 rounded border bg-panel p-3 shadow";

/**
 * Messages that come and go; an error stays until it is closed. They lie over a corner of the stage, not over tables,
 * and the hand reaches through them.
 */
export function Notices() {
  const { notices, drop } = useNotices();
  return (
    <Toast.Provider duration={Infinity} swipeDirection="left">
      {notices.map((n) => (
        <Toast.Root
          key={n.id}
          type={n.tone === "bad" ? "foreground" : "background"}
          onOpenChange={(open) => !open && drop(n.id)}
          className={`${box} ${n.tone === "bad" ? "border-bad text-bad" : "border-line"}`}
        >
          <Toast.Description className="flex-1">{n.text}</Toast.Description>
          <Toast.Close aria-label="Close message" className="pointer-events-auto rounded p-0.5 hover:bg-tint">
            <X size={14} />
          </Toast.Close>
        </Toast.Root>
      ))}
      <Toast.Viewport className="pointer-events-none fixed top-24 left-3 z-60 w-[420px] max-w-[90vw] space-y-2" />
    </Toast.Provider>
  );
}
