import { CaptureForm } from "./devices/CaptureForm";
import { Intake } from "./devices/Intake";
import { Outbox } from "./devices/Outbox";
import { Scroll } from "../ui/Scroll";

/** Where scans come from besides being dropped, and where copies of reports go. */
export function DevicesPage() {
  return (
    <Scroll name="Devices" className="h-full">
      <div className="mx-auto max-w-[860px] space-y-4 p-6">
        <h1 className="text-xl font-semibold">Devices</h1>
        <p className="text-soft">
          The simulated scanner stands in for a real one: it samples the nominal from many views, with noise, stray data
          and an unknown pose. The same seed gives the same scan.
        </p>
        <CaptureForm />
        <Intake />
        <Outbox />
      </div>
    </Scroll>
  );
}
