import { Table, type TableColumnsType } from "antd";
import type { OwnField, PartRow } from "../api/parts";
import * as texts from "./texts";

interface Props {
  rows: readonly PartRow[];
  own: readonly OwnField[];
  height: number;
  chosen: readonly string[];
  onChosen: (keys: string[]) => void;
  /** Path data of a row's picture, in a box of 56 × 40. */
  pictureOf: (row: PartRow) => string | undefined;
  /** What a part goes by that a row is the opposite hand of. */
  oppositeOf: (row: PartRow) => string;
}

const text = (a: string, b: string) => a.localeCompare(b, undefined, { numeric: true });
const figure = (a: number | null | undefined, b: number | null | undefined) => (a ?? -1) - (b ?? -1);

/** The rows of the register; a click selects one, ticks several. */
export function PartsTable({ rows, own, height, chosen, onChosen, pictureOf, oppositeOf }: Props) {
  const columns: TableColumnsType<PartRow> = [
    { title: texts.mark, dataIndex: "mark", width: 80, fixed: "left", sorter: (a, b) => text(a.mark, b.mark) },
    {
      title: "",
      key: "picture",
      width: 72,
      render: (_: unknown, row: PartRow) => {
        const d = pictureOf(row);
        return (
          d && (
            <svg className="part-thumb" viewBox="0 0 56 40" role="img" aria-label={texts.pictureOf(row.name)}>
              <path d={d} />
            </svg>
          )
        );
      },
    },
    {
      title: texts.name,
      dataIndex: "name",
      width: 230,
      sorter: (a, b) => text(a.name, b.name),
      render: (name: string, row) => (
        <div className="part-name" title={row.opposite ? `${name}, ${oppositeOf(row)}` : name}>
          <span>{name}</span>
          {row.opposite && <small>{oppositeOf(row)}</small>}
        </div>
      ),
    },
    { title: texts.kind, dataIndex: "kind", width: 94, sorter: (a, b) => text(a.kind, b.kind) },
    { title: texts.quantity, dataIndex: "quantity", width: 64, align: "right", sorter: (a, b) => a.quantity - b.quantity },
    { title: texts.material, dataIndex: "material", width: 124, ellipsis: true, sorter: (a, b) => text(a.material, b.material) },
    { title: texts.finish, dataIndex: "finish", width: 76, ellipsis: true, sorter: (a, b) => text(a.finish, b.finish) },
    {
      title: texts.thickness,
      dataIndex: "thickness",
      width: 100,
      align: "right",
      render: (value: number | null) => value && `${Number(value.toFixed(3))} ${texts.mm}`,
      sorter: (a, b) => figure(a.thickness, b.thickness),
    },
    {
      title: texts.mass,
      dataIndex: "mass",
      width: 82,
      align: "right",
      render: (value: number | null) => value !== null && texts.grams(value),
      sorter: (a, b) => figure(a.mass, b.mass),
    },
    { title: texts.number, dataIndex: "number", width: 104, ellipsis: true, sorter: (a, b) => text(a.number, b.number) },
    { title: texts.rev, dataIndex: "revision", width: 60 },
    ...own.map((field) => ({
      title: field.name,
      key: `own-${field.name}`,
      width: 110,
      ellipsis: true,
      render: (_: unknown, row: PartRow) => row.fields[field.name],
      sorter: (a: PartRow, b: PartRow) => text(a.fields[field.name] ?? "", b.fields[field.name] ?? ""),
    })),
  ];
  return (
    <Table
      virtual
      size="small"
      rowKey="key"
      aria-label={texts.partsRegister}
      columns={columns}
      dataSource={[...rows]}
      pagination={false}
      showSorterTooltip={false}
      scroll={{ y: height, x: columns.reduce((sum, column) => sum + Number(column.width ?? 0), 40) }}
      locale={{ emptyText: texts.noneFound }}
      rowSelection={{
        selectedRowKeys: [...chosen],
        onChange: (keys) => onChosen(keys.map(String)),
        columnWidth: 40,
        getCheckboxProps: (row) => ({ "aria-label": texts.choosePart(row.name) }),
      }}
      onRow={(row) => ({
        onClick: (event) => {
          const more = event.ctrlKey || event.metaKey;
          if (!more) onChosen([row.key]);
          else onChosen(chosen.includes(row.key) ? chosen.filter((key) => key !== row.key) : [...chosen, row.key]);
        },
      })}
    />
  );
}
