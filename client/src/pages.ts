import type { RouteRecordRaw } from 'vue-router'
import type { Role } from './shared/store'

/** The phases of the job, in their order. */
export const phases = ['Plan', 'Wire', 'Program', 'Supervise', 'Draw', 'Commission', 'Operate'] as const
export type Phase = (typeof phases)[number]

/** Something to do that find-or-do offers, and where it is done. */
export interface Command {
  name: string
  /** More words that it is found by. */
  words: string
  to?: string
  role?: Role
}

/** A page: everything that is said of it anywhere is said here. */
export interface Page {
  path: string
  load: () => Promise<unknown>
  title: string
  phase?: Phase
  /** Its word among the tabs of its phase; a page without one belongs to the tab before it. */
  tab?: string
  /** The least role that has use of it. */
  role?: Role
  /** The nouns of the records that it is the page of; {id} stands for the record, in the path or in a question. */
  of?: Record<string, string>
  commands?: Command[]
  /** The letter that leads here after g. */
  go?: string
  /** Its own keys, for ?. */
  keys?: [keys: string, what: string][]
  /** Whether it suits a phone; the others say that they want a larger screen. */
  phone?: boolean
  /** Has the whole height under the bars, and scrolls within itself. */
  fills?: boolean
}

const list: [string, string][] = [
  ['↑ ↓', 'choose another row'],
  ['↵', 'open the chosen row'],
  ['.', 'what can be done with the chosen row'],
  ['Space', 'tick the chosen row'],
  ['Del', 'remove the chosen row, after showing what goes with it'],
]
const grid: [string, string][] = [
  ['arrows, Shift', 'choose a cell, several cells'],
  ['↵ or F2', 'change the cell'],
  ['Ctrl C, Ctrl V', 'copy to and paste from a spreadsheet'],
  ['Ctrl D, Ctrl ⇧ D', 'fill down, fill a series'],
]

export const pages: readonly Page[] = [
  { path: '/', load: () => import('./plan/HomePage.vue'), title: 'Start', phone: true },
  {
    path: '/plan/:place?',
    load: () => import('./plan/PlanPage.vue'),
    title: 'Section',
    phase: 'Plan',
    tab: 'Section',
    go: 'p',
    keys: [...grid, ['A', 'add a place or equipment'], ['Del', 'remove what is chosen']],
    commands: [{ name: 'Add a building, floor, room or equipment', words: 'new plan', to: '/plan?add=1', role: 'engineer' }],
  },
  {
    path: '/list/import',
    load: () => import('./plan/ImportPage.vue'),
    title: 'Import a list',
    phase: 'Plan',
    tab: 'Import',
    role: 'engineer',
    commands: [{ name: 'Import a list', words: 'csv xlsx spreadsheet points rooms export', role: 'engineer' }],
  },
  {
    path: '/list/summary',
    load: () => import('./plan/IoSummaryPage.vue'),
    title: 'I/O summary',
    phase: 'Plan',
    tab: 'I/O',
    commands: [{ name: 'I/O summary', words: 'count points terminals spare print' }],
  },
  {
    path: '/library/:library?/:template?',
    load: () => import('./plan/LibraryPage.vue'),
    title: 'Library',
    phase: 'Plan',
    tab: 'Library',
    go: 'l',
    keys: list,
    commands: [{ name: 'Library: place a template', words: 'templates equipment copy', to: '/library' }],
  },
  {
    path: '/tags',
    load: () => import('./plan/TagsPage.vue'),
    title: 'Tags',
    phase: 'Plan',
    tab: 'Tags',
    of: { 'tagging rule': '/tags' },
    keys: [['Tab', 'complete the tag that is being typed'], ...list],
    commands: [{ name: 'Tags and filters', words: 'haystack rules semantic' }],
  },
  {
    path: '/names',
    load: () => import('./plan/NamesPage.vue'),
    title: 'Names',
    phase: 'Plan',
    tab: 'Names',
    of: { 'naming convention': '/names' },
    commands: [{ name: 'Names', words: 'naming convention spelling abbreviations network' }],
  },
  {
    path: '/findings',
    load: () => import('./plan/FindingsPage.vue'),
    title: 'Findings',
    phase: 'Plan',
    tab: 'Findings',
    go: 'f',
    of: { silence: '/findings' },
    keys: list,
    commands: [{ name: 'Findings', words: 'checks problems' }],
  },
  {
    path: '/history',
    load: () => import('./plan/HistoryPage.vue'),
    title: 'History',
    phase: 'Plan',
    tab: 'History',
    go: 'h',
    keys: list,
    commands: [{ name: 'Project history', words: 'journal revisions snapshots backups restore' }],
  },
  {
    path: '/projects',
    load: () => import('./plan/ProjectsPage.vue'),
    title: 'Projects',
    keys: list,
    commands: [{ name: 'Projects', words: 'make open copy archive daily copies' }],
  },
  {
    path: '/wire',
    load: () => import('./wire/ControllersPage.vue'),
    title: 'Panels',
    phase: 'Wire',
    tab: 'Panels',
    go: 'w',
    phone: true,
    keys: list,
    commands: [{ name: 'Add a controller', words: 'new wire panel', to: '/wire?add=1', role: 'engineer' }],
  },
  {
    path: '/wire/:controller',
    load: () => import('./wire/PanelPage.vue'),
    title: 'Panel',
    phase: 'Wire',
    phone: true,
    of: { controller: '/wire/{id}', module: '/wire' },
    keys: [
      ['← →', 'choose another terminal'],
      ['Del', 'take the point off the terminal'],
    ],
  },
  {
    path: '/wire/bus',
    load: () => import('./bus/BusPage.vue'),
    title: 'Bus',
    phase: 'Wire',
    tab: 'Bus',
    go: 'b',
    of: { line: '/wire/bus' },
    keys: list,
    commands: [{ name: 'Add a bus device', words: 'new two-wire push button presence actuator line', to: '/wire/bus?add=1', role: 'engineer' }],
  },
  {
    path: '/wire/bus/:device',
    load: () => import('./bus/BusDevicePage.vue'),
    title: 'Bus device',
    phase: 'Wire',
    of: { 'bus device': '/wire/bus/{id}', story: '/wire/bus' },
    keys: [
      ['↑ ↓', 'choose another channel'],
      ['← →', 'move an event of a story, with Shift further'],
      ['Del', 'take an event away'],
    ],
  },
  {
    path: '/wire/bus-table',
    load: () => import('./bus/BusTablePage.vue'),
    title: 'Parameters of many',
    phase: 'Wire',
    keys: [['S', 'set a parameter of the chosen or ticked rows'], ...list],
    commands: [{ name: 'Parameters of many bus devices as a table', words: 'bulk spreadsheet channels' }],
  },
  {
    path: '/wire/conversations',
    load: () => import('./bus/ConversationsPage.vue'),
    title: 'Conversations',
    phase: 'Wire',
    tab: 'Conversations',
    of: { conversation: '/wire/conversations' },
    keys: list,
    commands: [
      { name: 'Add a conversation', words: 'join group addresses lamp blind zone feedback', to: '/wire/conversations?add=1', role: 'engineer' },
      {
        name: 'Rooms like another: devices and conversations',
        words: 'furnish template floor copy join',
        to: '/wire/conversations?add=rooms',
        role: 'engineer',
      },
    ],
  },
  {
    path: '/wire/groups',
    load: () => import('./bus/GroupsPage.vue'),
    title: 'Group addresses',
    phase: 'Wire',
    tab: 'Groups',
    of: { 'group address': '/wire/groups', 'address range': '/wire/groups' },
    keys: list,
    commands: [{ name: 'Group addresses', words: 'who says who hears objects' }],
  },
  {
    path: '/wire/bus-matrix',
    load: () => import('./bus/MatrixPage.vue'),
    title: 'Who talks with whom',
    phase: 'Wire',
    keys: list,
    commands: [{ name: 'Matrix of objects and group addresses', words: 'who says who hears room' }],
  },
  {
    path: '/wire/bus-library',
    load: () => import('./bus/BusLibraryPage.vue'),
    title: 'Bus library',
    phase: 'Wire',
    tab: 'Bus library',
    of: { 'device description': '/wire/bus-library' },
    keys: list,
    commands: [{ name: 'Bus library', words: 'device descriptions parameters json' }],
  },
  { path: '/wire/replace/:point', load: () => import('./wire/ReplacePage.vue'), title: 'Replace a device', phase: 'Wire', role: 'engineer' },
  {
    path: '/wire/lists',
    load: () => import('./wire/ListsPage.vue'),
    title: 'Lists',
    phase: 'Wire',
    tab: 'Lists',
    commands: [{ name: 'Terminal, cable, label and parts lists', words: 'wiring strips print csv xlsx' }],
  },
  {
    path: '/wire/catalogue',
    load: () => import('./wire/CataloguePage.vue'),
    title: 'Catalogue',
    phase: 'Wire',
    tab: 'Catalogue',
    of: { 'hardware model': '/wire/catalogue' },
    keys: list,
    commands: [{ name: 'Hardware catalogue', words: 'models modules controllers supplies json' }],
  },
  {
    path: '/wire/curves',
    load: () => import('./wire/CurvesPage.vue'),
    title: 'Sensor curves',
    phase: 'Wire',
    tab: 'Curves',
    of: { 'sensor curve': '/wire/curves' },
    keys: list,
    commands: [{ name: 'Sensor curves', words: 'resistance table points own' }],
  },
  {
    path: '/program',
    load: () => import('./program/SequencesPage.vue'),
    title: 'Sequences',
    phase: 'Program',
    tab: 'Sequences',
    go: 's',
    keys: list,
    commands: [{ name: 'Add a sequence', words: 'new program logic', to: '/program?add=1', role: 'engineer' }],
  },
  {
    path: '/program/:sequence',
    load: () => import('./program/SequencePage.vue'),
    title: 'Sequence',
    phase: 'Program',
    of: { sequence: '/program/{id}' },
    keys: [
      ['B', 'insert a block by words'],
      ['L', 'diagram or ledger'],
      ['Tab, ↵', 'go from node to node, to its first source'],
      ['Space', 'pick one more'],
      ['Ctrl D', 'double what is picked'],
      ['Del', 'remove what is picked'],
      ['Esc', 'let go'],
    ],
  },
  {
    path: '/program/proofs',
    load: () => import('./program/ProofsPage.vue'),
    title: 'Proofs',
    phase: 'Program',
    tab: 'Proofs',
    keys: list,
    commands: [{ name: 'Run all tests', words: 'prove proofs clauses function tests coverage' }],
  },
  {
    path: '/program/help',
    load: () => import('./program/BlockHelpPage.vue'),
    title: 'Blocks',
    phase: 'Program',
    tab: 'Blocks',
    commands: [{ name: 'Help on blocks', words: 'formula documentation' }],
  },
  {
    path: '/program/older',
    load: () => import('./program/ConversionPage.vue'),
    title: 'Older programs',
    phase: 'Program',
    tab: 'Older programs',
    commands: [{ name: 'Convert older programs', words: 'version conversion upgrade migrate' }],
  },
  {
    path: '/supervise',
    load: () => import('./supervise/SchedulesPage.vue'),
    title: 'Schedules',
    phase: 'Supervise',
    tab: 'Schedules',
    keys: list,
    commands: [{ name: 'Add a schedule', words: 'new supervise timetable', to: '/supervise?add=1', role: 'engineer' }],
  },
  {
    path: '/supervise/schedules/:schedule',
    load: () => import('./supervise/SchedulePage.vue'),
    title: 'Schedule',
    phase: 'Supervise',
    of: { schedule: '/supervise/schedules/{id}' },
    keys: [['↵ in the phrase', 'write what was understood into the schedule']],
  },
  {
    path: '/supervise/trends',
    load: () => import('./supervise/TrendsPage.vue'),
    title: 'Trends',
    phase: 'Supervise',
    tab: 'Trends',
    go: 't',
    fills: true,
    of: { trend: '/supervise/trends?show={id}' },
    keys: [
      ['← →', 'earlier, later'],
      ['+ −', 'closer, farther'],
    ],
    commands: [{ name: 'Trends', words: 'chart history' }],
  },
  {
    path: '/supervise/alarms',
    load: () => import('./supervise/AlarmsPage.vue'),
    title: 'Alarms',
    phase: 'Supervise',
    tab: 'Alarms',
    go: 'a',
    phone: true,
    keys: list,
    commands: [{ name: 'Alarms', words: 'acknowledge limits' }],
  },
  {
    path: '/draw/:floor?',
    load: () => import('./draw/OutlinesPage.vue'),
    title: 'Outlines',
    phase: 'Draw',
    go: 'd',
    keys: [['Tab, ↵', 'go from room to room, choose it']],
    commands: [{ name: 'Outlines of rooms', words: 'draw floor plan corners', to: '/draw' }],
  },
  {
    path: '/commission',
    load: () => import('./commission/CommissionPage.vue'),
    title: 'Review and send',
    phase: 'Commission',
    tab: 'Send',
    go: 'c',
    keys: list,
    commands: [{ name: 'Review and send', words: 'commission download controller', role: 'technician' }],
  },
  { path: '/commission/:controller', load: () => import('./commission/SendPage.vue'), title: 'Send', phase: 'Commission' },
  {
    path: '/commission/contact',
    load: () => import('./commission/ContactPage.vue'),
    title: 'First contact',
    phase: 'Commission',
    tab: 'First contact',
    keys: list,
    commands: [{ name: 'First contact', words: 'commission discover set up certificate credentials box hang', role: 'technician' }],
  },
  { path: '/commission/contact/:controller', load: () => import('./commission/SetUpPage.vue'), title: 'Set up', phase: 'Commission', role: 'technician' },
  {
    path: '/commission/compare',
    load: () => import('./commission/ComparePage.vue'),
    title: 'Compare',
    phase: 'Commission',
    tab: 'Compare',
    keys: list,
    commands: [
      { name: 'Compare with the design', words: 'commission drift read back changed elsewhere', role: 'technician' },
      { name: 'Orphans', words: 'commission left over clean up remove unknown map', role: 'technician' },
    ],
  },
  {
    path: '/commission/check',
    load: () => import('./commission/ChecksPage.vue'),
    title: 'Point checks',
    phase: 'Commission',
    tab: 'Point checks',
    role: 'technician',
    phone: true,
    keys: list,
    commands: [{ name: 'Point checks', words: 'commission prove terminal loop test report', role: 'technician' }],
  },
  {
    path: '/commission/check/:controller',
    load: () => import('./commission/CheckPage.vue'),
    title: 'Check',
    phase: 'Commission',
    role: 'technician',
    phone: true,
  },
  {
    path: '/commission/bus',
    load: () => import('./bus/BusWorkPage.vue'),
    title: 'Bus devices at work',
    phase: 'Commission',
    tab: 'Bus devices',
    phone: true,
    keys: [['L', 'look at the chosen or ticked devices'], ['W', 'write what differs'], ...list],
    commands: [{ name: 'Put bus devices to work', words: 'address serial label button write send diagnose compare', role: 'technician' }],
  },
  {
    path: '/commission/bus/:device',
    load: () => import('./bus/TryPage.vue'),
    title: 'Try channels',
    phase: 'Commission',
    role: 'technician',
    phone: true,
  },
  {
    path: '/commission/monitor',
    load: () => import('./bus/BusMonitorPage.vue'),
    title: 'Line monitor',
    phase: 'Commission',
    tab: 'Line monitor',
    keys: list,
    commands: [{ name: 'Listen to a bus line', words: 'telegrams monitor group record replay load' }],
  },
  {
    path: '/commission/build',
    load: () => import('./commission/BuildPage.vue'),
    title: 'Build the site',
    phase: 'Commission',
    tab: 'Build the site',
    keys: list,
    commands: [{ name: 'Build the site', words: 'commission wire rooms machines virtual', role: 'technician' }],
  },
  {
    path: '/operate/:floor?',
    load: () => import('./operate/FloorPage.vue'),
    title: 'Floor',
    phase: 'Operate',
    tab: 'Floors',
    go: 'o',
    phone: true,
    keys: [
      ['arrows', 'go from room to room'],
      ['↵', 'open the room'],
      ['[ ]', 'the floor below, the floor above'],
    ],
    commands: [{ name: 'Floor view', words: 'operate rooms' }],
  },
  {
    path: '/operate/held',
    load: () => import('./operate/HeldPage.vue'),
    title: 'Held by hand',
    phase: 'Operate',
    tab: 'Held by hand',
    phone: true,
    keys: list,
    commands: [{ name: 'Held by hand', words: 'override release manual' }],
  },
  {
    path: '/operate/trail',
    load: () => import('./operate/TrailPage.vue'),
    title: 'Who did what on site',
    phase: 'Operate',
    tab: 'Who did what',
    phone: true,
    commands: [{ name: 'Who did what on site', words: 'trail audit commands' }],
  },
  {
    path: '/accounts',
    load: () => import('./account/AccountsPage.vue'),
    title: 'Accounts',
    phone: true,
    commands: [{ name: 'Accounts and password', words: 'users roles sign in' }],
  },
]

/** The path of a page without its open places. */
export const address = (page: Page) => page.path.replace(/\/:[^/]+/g, '') || '/'

export const routes: RouteRecordRaw[] = [
  ...pages.map((page) => ({ path: page.path, component: page.load as never, props: page.path.includes(':'), meta: { page } })),
  { path: '/:rest(.*)', redirect: '/' },
]

/** The tabs of a phase. */
export const tabsOf = (phase: Phase) => pages.filter((p) => p.phase === phase && p.tab)
/** The page that a phase begins with. */
export const firstOf = (phase: Phase) => (phase === 'Operate' ? '/operate' : address(pages.find((p) => p.phase === phase)!))
/** The tab that a page belongs to: its own, or the nearest before it. */
export const tabOf = (page: Page) => pages.slice(0, pages.indexOf(page) + 1).findLast((p) => p.phase === page.phase && p.tab)

/** The page that a record is shown on, by the word for it; null where its dossier is all there is. */
export const pageOf = (noun: string, id: string) => pages.find((p) => p.of?.[noun])?.of?.[noun]?.replace('{id}', id) ?? null

/** All that find-or-do offers. */
export const commands = pages.flatMap((page) => (page.commands ?? []).map((c) => ({ ...c, to: c.to ?? address(page), role: c.role ?? page.role })))
