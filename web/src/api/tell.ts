import { App } from "antd";
import { said } from "./client";

/** Tells a refusal as the sentence that it is. */
export function useTell() {
  const { message } = App.useApp();
  return (error: Error) => void message.error(said(error), 6);
}
