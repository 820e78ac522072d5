import { Suspense } from "react";
import { ApiError } from "./api/client";
import { useSession } from "./api/queries";
import { page } from "./page";

const AccountPage = page(() => import("./account/sign-in").then((m) => m.AccountPage));
const SignedIn = page(() => import("./signed-in").then((m) => m.SignedIn));

/** The sign-in, or all that is behind it. */
export function App() {
  const session = useSession();
  if (session.isPending) return null;
  if (session.data) {
    return (
      <Suspense fallback={null}>
        <SignedIn session={session.data} />
      </Suspense>
    );
  }
  const status = session.error instanceof ApiError ? session.error.problem.status : 0;
  if (status === 401) {
    return (
      <Suspense fallback={null}>
        <AccountPage />
      </Suspense>
    );
  }
  return (
    <main className="page">
      <h1>No answer</h1>
      <p>{session.error?.message}</p>
    </main>
  );
}
