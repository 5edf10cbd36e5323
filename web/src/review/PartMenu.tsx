import { Dropdown } from "antd";
import { PART_ACTS } from "./acts";
import { useReview, type Review } from "./state";
import * as texts from "./texts";

/** The acts for the part that was clicked with the right button, under its name. */
export function PartMenu({ review }: { review: Review }) {
  const menu = useReview(review, (state) => state.menu);
  if (!menu) return null;
  const close = () => review.getState().set({ menu: null });
  const items = [
    { key: "name", type: "group" as const, label: menu.name },
    ...PART_ACTS.map((act) => ({
      key: act.id,
      label: (
        <span className="menu-row">
          {act.title} <kbd>{act.key}</kbd>
        </span>
      ),
    })),
    { type: "divider" as const },
    {
      key: "all",
      label: (
        <span className="menu-row">
          {texts.showAll} <kbd>A</kbd>
        </span>
      ),
    },
  ];
  const run = (key: string) => {
    close();
    if (key === "all") return review.getState().showAll();
    PART_ACTS.find((act) => act.id === key)?.run(review.getState(), menu.name);
  };
  return (
    <Dropdown
      key={`${menu.x} ${menu.y} ${menu.name}`}
      open
      trigger={["click"]}
      onOpenChange={(open) => !open && close()}
      autoFocus
      menu={{ items, onClick: ({ key }: { key: string }) => run(key) }}
    >
      <i className="menu-place" style={{ left: menu.x, top: menu.y }} />
    </Dropdown>
  );
}
