import { Caution } from '../../parts/Caution';

/** What can hurt somebody on a drive for the map. */
export function DrivingCaution() {
    return <Caution>Read the log afterwards, not while driving: somebody else watches the screen. Heavy load on a brake or rollers, in short holds, or where it is lawful. Local codes come first.</Caution>;
}
