import { type ReactNode, useEffect, useRef, useState } from "react";
import { Group, Panel, type PanelImperativeHandle, Separator, useDefaultLayout } from "react-resizable-panels";

const FOLDED = 33;

/**
 * Stage and ledger share the left, the worksheet has the full height at the right. Both sizes are remembered; the ledger
 * folds to its head line.
 */
export function WorkbenchLayout({
  stage,
  ledger,
  worksheet,
}: {
  stage: ReactNode;
  ledger: (folded: boolean, onFold: () => void) => ReactNode;
  worksheet: ReactNode;
}) {
  const across = useDefaultLayout({ id: "bostel-bench", panelIds: ["bench-left", "bench-worksheet"] });
  const down = useDefaultLayout({ id: "bostel-left", panelIds: ["bench-stage", "bench-ledger"] });
  const panel = useRef<PanelImperativeHandle>(null);
  const [folded, setFolded] = useState(false);
  const fold = () => (panel.current?.isCollapsed() ? panel.current.expand() : panel.current?.collapse());
  useEffect(() => setFolded(panel.current?.isCollapsed() ?? false), []);
  return (
    <Group orientation="horizontal" className="min-h-0 flex-1" {...across}>
      <Panel id="bench-left" minSize={480}>
        <Group orientation="vertical" {...down}>
          <Panel id="bench-stage" minSize={180}>
            {stage}
          </Panel>
          <Separator
            aria-label="Height of the ledger"
            className="h-1 bg-line hover:bg-indigo focus-visible:bg-indigo data-[separator=active]:bg-indigo"
          />
          <Panel
            id="bench-ledger"
            panelRef={panel}
            defaultSize={196}
            minSize={96}
            collapsible
            collapsedSize={FOLDED}
            groupResizeBehavior="preserve-pixel-size"
            onResize={(size) => setFolded(size.inPixels <= FOLDED + 1)}
          >
            {ledger(folded, fold)}
          </Panel>
        </Group>
      </Panel>
      <Separator
        aria-label="Width of the worksheet"
        className="w-1 bg-line hover:bg-indigo focus-visible:bg-indigo data-[separator=active]:bg-indigo"
      />
      <Panel
        id="bench-worksheet"
        defaultSize={360}
        minSize={320}
        maxSize={640}
        groupResizeBehavior="preserve-pixel-size"
        className="bg-panel"
      >
        {worksheet}
      </Panel>
    </Group>
  );
}
