import { X } from "lucide-react";
import { Toast } from "radix-ui";
import { useNotices } from "../ui/notices";

/** Messages that come and go; an error stays until it is closed. */
export function Notices() {
  const { notices, drop } = useNotices();
  return (
    <Toast.Provider duration={Infinity} swipeDirection="down">
      {notices.map((n) => (
        <Toast.Root
          key={n.id}
          type={n.tone === "bad" ? "foreground" : "background"}
          onOpenChange={(open) => !open && drop(n.id)}
          className={`flex items-start gap-2 rounded border bg-panel p-3 shadow ${n.tone === "bad" ? "border-bad text-bad" : "border-line"}`}
        >
          <Toast.Description className="flex-1">{n.text}</Toast.Description>
          <Toast.Close aria-label="Close message" className="rounded p-0.5 hover:bg-tint">
            <X size={14} />
          </Toast.Close>
        </Toast.Root>
      ))}
      <Toast.Viewport className="fixed bottom-10 left-1/2 z-60 w-[520px] max-w-[90vw] -translate-x-1/2 space-y-2" />
    </Toast.Provider>
  );
}
