import type { Component } from "../api/client";

const figure = new Intl.NumberFormat("en", { maximumFractionDigits: 2, useGrouping: false });
export const sizeText = (size: readonly number[]) => size.map((v) => figure.format(v)).join(" × ");

export const leavesBeneath = (component: Component): string[] => (component.children?.length ? component.children.flatMap(leavesBeneath) : [component.path]);
