import type { Pull, SharedList } from '@core/library';
import type { TeamList, TeamListEdit } from '@core/schemas';

/** A sound as it is known to the team. */
export interface TeamMemberId {
  library: number;
  sound: number;
}
/** What a sound here is there; undefined for one that is in no library of the team. */
export type ThereOf = (soundId: number) => TeamMemberId | undefined;
/** What a sound there is here; undefined for one that is not here. */
export type HereOf = (member: TeamMemberId) => number | undefined;

const keyOf = ({ library, sound }: TeamMemberId): string => `${library}/${sound}`;

/** A pull as the team would see it: its members that are in libraries of the team, with their notes; those that are not here as they were. */
export function sharedOf(pull: Pull, there: ThereOf, here: HereOf): SharedList {
  const members = pull.soundIds.flatMap((id) => {
    const member = there(id);
    return member ? [{ ...member, note: pull.notes?.[id] ?? '' }] : [];
  });
  const away = (pull.team?.was.members ?? []).filter((m) => here(m) === undefined);
  return { name: pull.name, members: [...members, ...away] };
}

/** What has to be told of a pull so that the list is as it is here; undefined where nothing has. */
export function listEdit(was: SharedList, now: SharedList): TeamListEdit | undefined {
  const [before, after] = [
    new Map(was.members.map((m) => [keyOf(m), m])),
    new Map(now.members.map((m) => [keyOf(m), m])),
  ];
  const place = ({ library, sound }: TeamMemberId) => ({ library, sound });
  const add = now.members.filter((m) => !before.has(keyOf(m))).map(place);
  const remove = was.members.filter((m) => !after.has(keyOf(m))).map(place);
  const notes = now.members.flatMap((m) => {
    const old = before.get(keyOf(m))?.note ?? '';
    return m.note === old ? [] : [{ ...place(m), was: old, is: m.note }];
  });
  if (was.name === now.name && add.length + remove.length + notes.length === 0) return undefined;
  return {
    ...(was.name === now.name ? {} : { name: now.name }),
    ...(add.length > 0 ? { add } : {}),
    ...(remove.length > 0 ? { remove } : {}),
    ...(notes.length > 0 ? { notes } : {}),
  };
}

/** What a pull becomes where the list is as the team has it. Everybody has an order of their own; sounds that no library of the team has stay. */
export function pullFrom(
  pull: Pick<Pull, 'soundIds' | 'notes'>,
  list: TeamList,
  there: ThereOf,
  here: HereOf,
): Required<Pick<Pull, 'name' | 'soundIds' | 'team'>> & Pick<Pull, 'notes'> {
  const members = list.members.flatMap((m) => {
    const id = here(m);
    return id === undefined ? [] : [{ id, note: m.note }];
  });
  const ofTeam = new Set(members.map((m) => m.id));
  const kept = pull.soundIds.filter((id) => ofTeam.has(id) || !there(id));
  const fresh = members.map((m) => m.id).filter((id) => !kept.includes(id));
  const own = kept.filter((id) => !ofTeam.has(id));
  const notes = Object.fromEntries([
    ...own.flatMap((id): [number, string][] => (pull.notes?.[id] ? [[id, pull.notes[id]]] : [])),
    ...members.flatMap(({ id, note }): [number, string][] => (note ? [[id, note]] : [])),
  ]);
  return {
    name: list.name,
    soundIds: [...kept, ...fresh],
    ...(Object.keys(notes).length > 0 ? { notes } : {}),
    team: {
      list: list.id,
      was: { name: list.name, members: list.members.map(({ library, sound, note }) => ({ library, sound, note })) },
    },
  };
}
