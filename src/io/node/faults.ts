import { LevelGridError } from '../../core/base';

/** What the system says, in the words of the errors of Level Grid: no room and no permission are two things. */
export function writeFault(reason: unknown, name: string): LevelGridError {
  if (reason instanceof LevelGridError) return reason;
  const code = (reason as NodeJS.ErrnoException | null)?.code ?? '';
  const [found, expected, remedy] =
    code === 'ENOSPC' || code === 'EDQUOT' || code === 'EFBIG'
      ? [
          'no room left on the disk',
          'room for the whole pack',
          'Free some space, or choose another folder. Nothing was changed.',
        ]
      : code === 'EACCES' || code === 'EPERM' || code === 'EROFS'
        ? [
            'a place that may not be written',
            'permission to write',
            'Change the permissions, or choose another folder.',
          ]
        : code === 'ENAMETOOLONG'
          ? [
              'a name that is too long for this disk',
              'a shorter name',
              'Shorten the project’s name or the name pattern.',
            ]
          : ['a place that can’t be written', 'a folder that can be written', 'Check the path and the disk.'];
  return new LevelGridError('unwritable', {
    file: name,
    found,
    expected,
    remedy,
    ...(reason === null ? {} : { cause: reason }),
  });
}
