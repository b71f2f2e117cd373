import { useQuery } from "@tanstack/react-query";
import { api, data, rememberSession } from "./api/client";

/** Who is signed in. */
export function useSession() {
  return useQuery({
    queryKey: ["session"],
    queryFn: async () => {
      const s = await data(api.GET("/api/session"));
      rememberSession(s);
      return s;
    },
    staleTime: 60_000,
  });
}

/** Whether who is signed in may start surveys and change what is surveyed. */
export function useMayLead(): boolean {
  const role = useSession().data?.role;
  return role === "lead" || role === "owner";
}
