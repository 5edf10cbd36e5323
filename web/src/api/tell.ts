import { App } from "antd";

/** Tells a refusal as the sentence that it is. */
export function useTell() {
  const { message } = App.useApp();
  return (error: Error) => void message.error(error.message, 6);
}
