import { Team } from '../elsewhere/team';
import { dropFetched } from '../files/fetched';
import type { Progress } from '../labelling/desk';
import type { Store } from '../store/store';
import { Follower, type TeamCatalogue } from './follower';
import { ListFollower } from './lists';
import { Sender } from './sender';

/** Shares libraries with a team, in a worker: follows them, adds to them, and fetches from them. Each ask names the address of the team’s server. */
export class Sharer {
  private readonly follower: Follower;
  private readonly sender: Sender;
  private readonly lists: ListFollower;

  constructor(store: Store, catalogue: TeamCatalogue) {
    this.follower = new Follower(store, catalogue);
    this.sender = new Sender(store);
    this.lists = new ListFollower(store, catalogue, this.follower);
  }

  /** See {@link Follower.follow}. */
  follow(base: string, rootId: number, touched: readonly number[] | undefined, progress: Progress, person?: string) {
    return this.follower.follow(new Team(base), rootId, touched, progress, person);
  }

  /** See {@link Follower.measure}. */
  measure(base: string, rootId: number, ids: readonly number[] | undefined, progress: Progress) {
    return this.follower.measure(new Team(base), rootId, ids, progress);
  }

  /** See {@link ListFollower.follow}. */
  followList(base: string, pullId: number, progress: Progress) {
    return this.lists.follow(new Team(base), pullId, progress);
  }

  /** See {@link Sender.add}. */
  add(base: string, library: number, ids: readonly number[], progress: Progress) {
    return this.sender.add(new Team(base), library, ids, progress);
  }

  /** See {@link Sender.fetch}. */
  fetch(ids: readonly number[], progress: Progress) {
    return this.sender.fetch(ids, progress);
  }

  /** Ends adding or fetching after what is in hand. */
  end(): void {
    this.sender.end();
  }

  /** Lets go of what was fetched of a library. @returns how many files */
  drop(base: string, library: number) {
    return dropFetched(new Team(base).filesOf(library));
  }
}
