/** Signing out, from wherever it is asked for. */
import { signOut } from "../api/accounts";
import { queryClient } from "../query";
import { router } from "../router";

export async function goOut(): Promise<void> {
  await signOut();
  queryClient.clear();
  await router.push("/sign-in");
}
