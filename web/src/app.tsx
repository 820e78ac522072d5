import { Suspense } from "react";
import { ApiError } from "./api/client";
import { useSession } from "./api/queries";
import { page } from "./page";

const AccountPage = page(() => import("./account/sign-in").then((m) => m.AccountPage));
const SignedIn = page(() => import("./signed-in").then((m) => m.SignedIn));

const ByLinkPage = page(() => import("./account/come-in").then((m) => m.ByLinkPage));

/** Where a link leads, whoever is signed in. */
const BY_LINK = /^\/(invited|back)$/;

/** The sign-in, or all that is behind it. */
export function App() {
  const session = useSession();
  const byLink = BY_LINK.test(window.location.pathname);
  if (session.isPending) return null;
  const status = session.error instanceof ApiError ? session.error.problem.status : 0;
  if (byLink || session.data || status === 401) {
    return (
      <Suspense fallback={null}>
        {byLink ? (
          <ByLinkPage />
        ) : session.data ? (
          <SignedIn session={session.data} />
        ) : (
          <AccountPage />
        )}
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
