import { Button, Modal } from "antd";
import { useMemo } from "react";
import type { View } from "../api/client";
import { useTree } from "../api/queries";
import { ComponentTree, leavesBeneath } from "../source/ComponentTree";

interface Props {
  view: View;
  open: boolean;
  close: () => void;
  onHidden: (hidden: string[]) => void;
}

/** Which components a view shows. */
export function ComponentsPicker({ view, open, close, onHidden }: Props) {
  const { data: tree } = useTree(view.source);
  const leaves = useMemo(() => tree?.components.flatMap(leavesBeneath) ?? [], [tree]);
  const shown = useMemo(() => {
    const hidden = view.hidden ?? [];
    return new Set(leaves.filter((path) => !hidden.some((h) => path === h || path.startsWith(`${h}/`))));
  }, [leaves, view.hidden]);
  const keep = (next: Set<string>) => onHidden(leaves.filter((path) => !next.has(path)));
  return (
    <Modal open={open} onCancel={close} title={`Components of the ${view.name} view`} width={560} footer={<Button onClick={close}>Done</Button>}>
      <p className="soft">
        {shown.size} of {leaves.length} shown. One taken out hides nothing behind it.{" "}
        <Button type="link" size="small" onClick={() => keep(new Set(leaves))}>
          Show all
        </Button>
      </p>
      {tree && <ComponentTree tree={tree} height={420} shown={shown} onShown={keep} />}
    </Modal>
  );
}
