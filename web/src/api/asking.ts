import { useQuery as ask } from "@tanstack/react-query";

/** As the library's own, but that nothing is asked for again and again once it was refused: its reason stays where it is read. */
export const useQuery = ((options, ...rest) => {
  const again = options.refetchInterval;
  if (typeof again !== "function") return ask(options, ...rest);
  const refetchInterval: typeof again = (query) => (query.state.error ? false : again(query));
  return ask({ ...options, refetchInterval }, ...rest);
}) as typeof ask;
