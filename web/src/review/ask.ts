import { problemsOf } from "../api/client";
import { useSession } from "../session";
import { useReview } from "../session/review";

/** Does something about the review of the open floor; what the server refuses is said. Whether it was done. */
export async function reviewed(
  ask: (floor: number) => Promise<{ response: Response; error?: unknown }>,
): Promise<boolean> {
  const { floor, say } = useSession.getState();
  if (!floor) return false;
  const answer = await ask(floor.id).catch(() => null);
  if (!answer?.response.ok) {
    const problem = problemsOf(answer?.error)[0];
    say(problem ? `${problem.path} ${problem.sentence}` : "The server does not answer; nothing was kept.", true);
    return false;
  }
  await useReview.getState().look(floor.id);
  return true;
}
