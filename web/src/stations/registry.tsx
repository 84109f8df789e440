import { lazyPage, type LazyPage } from '../parts/lazyPage';
import type { Shortcut } from '../parts/shortcuts';

/** A place below a job that can be gone to by two keys. */
interface Way {
    keys: string;
    to: string;
    does: string;
}

/** One station: where it is, what opens it, and what can be done there by keyboard. */
export interface StationSheet {
    /** As the server names it; empty for sheets that are no station of the order. */
    key: string;
    /** Where the station line leads, below the job. */
    home: string;
    routes: { path: string; page: LazyPage }[];
    ways: Way[];
    /** Words of the button that opens a sheet of it for the next action; the first is for its home. */
    opens: Record<string, string>;
    keyboard?: { where: string; keys: Shortcut[] };
}

export const BoardPage = lazyPage(() => import('./board'), 'BoardPage');
export const NewJobPage = lazyPage(() => import('./newjob'), 'NewJobPage');
export const TrainerPage = lazyPage(() => import('./trainer'), 'TrainerPage');
export const AccountPage = lazyPage(() => import('./account'), 'AccountPage');
export const GuidePage = lazyPage(() => import('./guide'), 'GuidePage');
export const OrderPage = lazyPage(() => import('./order'), 'OrderPage');

/** Every sheet of a job, in the order of the stations: routes, station line, keys and words come from here. */
export const STATIONS: StationSheet[] = [
    {
        key: 'intake',
        home: 'intake',
        routes: [{ path: 'intake/:part?', page: lazyPage(() => import('./intake'), 'IntakePage') }],
        ways: [{ keys: 'g e', to: 'intake', does: 'go to the intake' }],
        opens: { review: 'See the review' },
    },
    {
        key: 'wiring',
        home: 'wiring',
        routes: [
            { path: 'wiring/print', page: lazyPage(() => import('./wiring'), 'PrintPage') },
            { path: 'wiring/:part?', page: lazyPage(() => import('./wiring'), 'WiringPage') },
        ],
        ways: [{ keys: 'g w', to: 'wiring', does: 'go to the wiring' }],
        opens: { '': 'Plan the wiring', list: 'Open the wiring list' },
        keyboard: {
            where: 'Wiring plan',
            keys: [
                { keys: '← ↑ ↓ →', does: 'move between the pins of a connector' },
                { keys: 'Enter', does: 'choose what is on the pin' },
            ],
        },
    },
    {
        key: 'sensors',
        home: 'sensors',
        routes: [{ path: 'sensors/:part?/:sensor?', page: lazyPage(() => import('./sensors'), 'SensorsPage') }],
        ways: [
            { keys: 'g s', to: 'sensors', does: 'go to the sensors' },
            { keys: 'g k', to: 'sensors/key-on', does: 'go to the key-on check' },
        ],
        opens: { '': 'Enter the sensors', 'key-on': 'Check the sensors' },
    },
    {
        key: 'injectors',
        home: 'injectors',
        routes: [{ path: 'injectors/:part?', page: lazyPage(() => import('./injectors'), 'InjectorsPage') }],
        ways: [{ keys: 'g i', to: 'injectors', does: 'go to the injectors' }],
        opens: { '': 'Look at the injectors' },
    },
    {
        key: 'trigger',
        home: 'trigger',
        routes: [{ path: 'trigger/:part?', page: lazyPage(() => import('./trigger'), 'TriggerPage') }],
        ways: [{ keys: 'g c', to: 'trigger', does: 'go to the trigger: crank and cam' }],
        opens: {
            '': 'Enter the wheel',
            capture: 'Capture the edges',
            outputs: 'Try the outputs',
            timing: 'Read the timing light',
        },
    },
    {
        key: 'base-maps',
        home: 'base-maps',
        routes: [{ path: 'base-maps/:part?/:table?', page: lazyPage(() => import('./basemaps'), 'BaseMapsPage') }],
        ways: [
            { keys: 'g m', to: 'base-maps', does: 'go to the base maps' },
            { keys: 'g b', to: 'base-maps/tables/ve', does: 'go to the table bench' },
            { keys: 'g x', to: 'base-maps/transfer', does: 'go to the transfer sheet' },
        ],
        opens: { tables: 'Open the table bench' },
        keyboard: {
            where: 'Table bench',
            keys: [
                { keys: '← ↑ ↓ → , Shift', does: 'move; with Shift choose a region' },
                { keys: '*', does: 'choose all cells' },
                { keys: 'Enter or a digit', does: 'type a value; Tab goes on to the right' },
                { keys: '+ and −', does: 'one fine step' },
                { keys: ']  [ and }  {', does: '5 % up, down, and 10 % up, down' },
                { keys: '=  a  m', does: 'set to, add, change by percent' },
                { keys: 'i  k  x', does: 'interpolate across, down, between the corners' },
                { keys: 's  f  d', does: 'smooth, fill to the right, fill down' },
                { keys: 'l', does: 'lock or unlock cells' },
                { keys: 'j', does: 'jump to the cell nearest to a value' },
                { keys: 'Ctrl c and Ctrl v', does: 'copy to and paste from a spreadsheet' },
                { keys: 'u and Shift u', does: 'undo and redo, also after a reload' },
                { keys: 'w', does: 'write the changes down as a revision' },
            ],
        },
    },
    {
        key: 'first-start',
        home: 'first-start',
        routes: [
            { path: 'first-start/print', page: lazyPage(() => import('./firststart'), 'PrintSheetPage') },
            { path: 'first-start', page: lazyPage(() => import('./firststart'), 'FirstStartPage') },
        ],
        ways: [{ keys: 'g f', to: 'first-start', does: 'go to the first start' }],
        opens: { '': 'Open the run sheet' },
    },
    {
        key: 'hot-idle',
        home: 'hot-idle',
        routes: [{ path: 'hot-idle/:part?', page: lazyPage(() => import('./hotidle'), 'HotIdlePage') }],
        ways: [{ keys: 'g h', to: 'hot-idle', does: 'go to the hot idle' }],
        opens: { '': 'Read the warm idle' },
    },
    {
        key: 'ladder',
        home: 'ladder',
        routes: [{ path: 'ladder', page: lazyPage(() => import('./ladder'), 'LadderPage') }],
        ways: [{ keys: 'g l', to: 'ladder', does: 'go to the ladder' }],
        opens: { '': 'Open the ladder' },
        keyboard: {
            where: 'Ladder',
            keys: [
                { keys: '← ↑ ↓ →', does: 'move between cells' },
                { keys: 'Enter or a digit', does: 'type a value' },
                { keys: 'Escape', does: 'leave the cell as it was' },
                { keys: '+ and −', does: 'raise or lower the cell by one step' },
                { keys: 'u and Shift u', does: 'undo and redo, also after a reload' },
                { keys: 'w', does: 'write the changes down as a revision' },
            ],
        },
    },
    {
        key: 'trial',
        home: 'record',
        routes: [
            { path: 'record', page: lazyPage(() => import('./record'), 'RecordPage') },
            { path: 'trials/:trialId', page: lazyPage(() => import('./trial'), 'TrialPage') },
        ],
        ways: [{ keys: 'g r', to: 'record', does: 'record a start' }],
        opens: {},
        keyboard: {
            where: 'Trial',
            keys: [
                { keys: 'a', does: 'accept the advice' },
                { keys: 'd', does: 'decline it with a note' },
            ],
        },
    },
    {
        key: 'fuel-map',
        home: 'fuel-map',
        routes: [
            { path: 'fuel-map/plan/:number', page: lazyPage(() => import('./fuelmap'), 'DrivePlanPage') },
            { path: 'fuel-map/:part?', page: lazyPage(() => import('./fuelmap'), 'FuelMapPage') },
        ],
        ways: [{ keys: 'g p', to: 'fuel-map', does: 'go to the fuel map' }],
        opens: { '': 'Open the fuel map' },
    },
    {
        key: 'pulls',
        home: 'pulls',
        routes: [
            { path: 'pulls/print', page: lazyPage(() => import('./pulls'), 'ResultPage') },
            { path: 'pulls/:part?', page: lazyPage(() => import('./pulls'), 'PullsPage') },
        ],
        ways: [{ keys: 'g u', to: 'pulls', does: 'go to the pulls' }],
        opens: { '': 'Open the pulls' },
    },
    {
        key: 'handover',
        home: 'handover',
        routes: [{ path: 'handover/:part?', page: lazyPage(() => import('./handover'), 'HandoverPage') }],
        ways: [{ keys: 'g n', to: 'handover', does: 'go to the handover' }],
        opens: { '': 'Open the handover' },
    },
    {
        key: '',
        home: 'logbook',
        routes: [{ path: 'logbook', page: lazyPage(() => import('./logbook'), 'LogbookPage') }],
        ways: [{ keys: 'g d', to: 'logbook', does: 'go to the logbook' }],
        opens: {},
    },
    {
        key: '',
        home: 'live',
        routes: [{ path: 'live', page: lazyPage(() => import('./live'), 'LivePage') }],
        ways: [{ keys: 'g v', to: 'live', does: 'go to the live link' }],
        opens: {},
    },
    {
        key: '',
        home: 'season',
        routes: [{ path: 'season', page: lazyPage(() => import('./trainer'), 'SeasonPage') }],
        ways: [],
        opens: {},
    },
];

/** The station a path below a job belongs to. */
export function stationAt(path: string): StationSheet | undefined {
    const [first] = path.split('/');
    return STATIONS.find((station) => station.routes.some((route) => route.path.split('/')[0] === first));
}
