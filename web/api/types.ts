// What the API answers; docs/openapi.yaml is the reference. Sizes are bytes, times ISO 8601.

export type State = 'ok' | 'ask' | 'no'

export interface Fact {
  id: string
  state: State
  title: string
  detail: string
  evidence?: string
  /** Number of the part that it is about. */
  part?: number
}

export type Role = 'startup' | 'reserved' | 'system' | 'data' | 'recovery' | 'swap' | 'free'

export interface Volume {
  kind: string
  label: string | null
  uuid: string | null
  size_bytes: number
  used_bytes: number
  clean: boolean | null
  /** Why its map of used blocks is not believed, so that it was kept whole. */
  doubts?: string[]
  /** A system sleeps on it. */
  hibernated?: boolean
}

export interface Part {
  number: number | null
  name: string
  role: Role
  start_bytes: number
  size_bytes: number
  volume: Volume
  change?: string
  type_name?: string
  damage?: string
}

export interface Technician {
  id: number
  name: string
  short_name: string
  initials: string
}

export interface SessionAnswer {
  technician: Technician | null
  token: string
  bench: string
}

export type StationName = 'computer' | 'image' | 'target' | 'layout' | 'write' | 'start'

export interface StationRow {
  name: StationName
  title: string
  state: 'sealed' | 'open' | 'later'
  lead: string
  seal: { id: number; by: string; name: string; at: string } | null
}

export interface Progress {
  order?: string
  part?: number | null
  done?: number
  total?: number
  written?: number
  to_write?: number
  speed?: number
  compared?: number
  compared_bytes?: number
  spared?: number
  source_retries?: number
  target_retries?: number
  limit?: 'target' | 'processor' | 'shelf' | null
}

export interface DocketRow {
  waits_for: string | null
  waits_note: string | null
  id: number
  number: string
  computer: string
  place: string | null
  cause: string
  cause_name: string
  trouble_since: string | null
  trouble_noticed: string | null
  opened_at: string
  closed_at: string | null
  current: StationName
  stations: StationRow[]
  write: { id: number; state: WriteState; progress: Progress } | null
}

/** A page of the list: what is being written first, then what waits, then what was signed off. */
export interface DocketPage {
  dockets: DocketRow[]
  total: number
  from: number
  groups: { writing: number; waiting: number; closed: number }
}

export interface Docket extends DocketRow {
  copied_from: string | null
  computer_id: number
  drive_id: number | null
  opened_by: string
  note: string | null
  broken: { station: StationName; because: string; at: string } | null
}

export interface StationAnswer<View> {
  station: StationName
  view: View
  facts: Fact[]
}

export interface ComputerView {
  computer: {
    name: string
    place: string | null
    model: string | null
    firmware: string
    secure_boot: boolean
    system_identity: string | null
    note: string | null
  }
  drives: { maker: string; model: string; capacity: number; port: string | null; serial: string; last_seen_at: string | null }[]
  cause: string
  causes: Record<string, string>
  trouble_since: string | null
  trouble_noticed: string | null
  note: string | null
}

/** A milestone of a start; seconds is null where it was not reached. */
export interface Milestone { id: 'firmware' | 'loader' | 'kernel' | 'root' | 'login'; title: string; seconds: number | null }

export interface Trial {
  id: number
  kind: 'emulator' | 'computer'
  state: 'queued' | 'running' | 'done'
  outcome: string | null
  seconds: number | null
  lines: string[]
  text: string
  /** What somebody has to type before it goes on. */
  waits?: 'passphrase' | null
  milestones: Milestone[]
  answer: string | null
  wish: { controller?: string; attached?: boolean; secure_boot?: boolean }
  technician: string
  message: string | null
  at: string
  picture: string | null
  docket_id?: number
}

export type ImageState = 'unchecked' | 'checking' | 'paused' | 'whole' | 'damaged' | 'incomplete'

/** An image as a row of the catalogue. */
export interface ImageRow {
  id: number
  computer: string | null
  state: ImageState
  /** The last check is too long ago. */
  due: boolean
  format: string
  taken_at: string
  used_bytes: number
  size_bytes: number
  /** Sectors that could not be read when it was taken. */
  unread: number
  shelf: string
  reachable: boolean
  place: string
  checked_at: string | null
  problem: string | null
}

export interface CheckFindings {
  words: string | null
  damaged: number
  places: { cluster: number; offset: number; part: number | null; reason: string }[]
  hit: { part: number; path: string | null; size: number | null }[]
  files: string[]
  notes: string[]
  usable: string[]
  unread: string | null
  unread_hit: { part: number; path: string | null; size: number | null }[]
}

export interface CheckProgress {
  doing: 'checking' | 'unpacking'
  done: number
  total: number
}

/** All there is to know of an image. */
export interface Image extends ImageRow {
  taken_as_written: string
  by_file_date: boolean
  note: string
  parts: Part[]
  table: 'gpt' | 'mbr' | null
  provisional: boolean
  drive: Record<string, string | number>
  clusters: number
  members: string[]
  systems: { part: number; host?: string; machine_id?: string; name?: string }[]
  /** What is not in the image, by the map that calls it free. */
  left_out: { part: number | null; map: string; ranges: number; bytes: number }[]
  whereabouts: string
  gone: boolean
  indexed: boolean
  progress: CheckProgress | null
  check: CheckFindings
  trial: Trial | null
  twins: { id: number; taken_at: string; state: ImageState }[]
}

export type Moment = 'before' | 'between' | 'after' | 'unknown'

export interface CandidateImage extends Image {
  own: boolean
  kin: 'own' | 'unclear' | 'twin' | 'other'
  moment: Moment
  relation: string | null
  why: string
  score: number
  facts: (Fact & { weight: number })[]
  needs_reason: string | null
}

export interface ImageView {
  images: CandidateImage[]
  sealed_id: number | null
  of_others: number
  since: string | null
  noticed: string | null
  reason: string | null
}

export interface Health {
  state: 'good' | 'worn' | 'failing' | 'unknown'
  reason: string
  reallocated: number | null
  pending: number | null
  wear: number | null
  errors: number | null
  hours: number | null
  temperature: number | null
}

export interface NewerFile {
  path: string
  bytes: number
  at: string | null
}

/** A volume of a drive as it was counted; without files where that is not possible. */
export interface LossVolume {
  part: number
  name: string
  kind: string
  role: string
  used_bytes: number
  problem?: string
  files?: number
  bytes?: number
  newest?: { path: string; at: string } | null
  newer?: { files: number; bytes: number; complete: boolean; folders: { path: string; files: number; bytes: number; newest: string | null }[]; named: NewerFile[] }
  /** Files whose contents are not there or cannot be read: they cannot be saved. */
  unsaved?: { files: number; bytes: number; named: { path: string; bytes: number; note: string }[] }
}

export interface LossResult {
  volumes: LossVolume[]
  hosts: string[]
  files: number
  bytes: number
  newest: string | null
  newer_files: number
  newer_bytes: number
  unknown: string[]
}

/** Work on a drive in the background. */
export interface DriveTask<Result = Record<string, unknown>> {
  id: number
  kind: 'count' | 'save' | 'image' | 'clean' | 'capacity'
  state: 'queued' | 'running' | 'done' | 'failed' | 'stopped'
  drive_id: number
  docket_id: number | null
  params: Record<string, unknown>
  progress: { done?: number; total?: number | null; entries?: number } | null
  result: Result | null
  error: string | null
  by: string
  at: string
  finished_at: string | null
  shelf: string | null
}

export interface Loss {
  count: DriveTask<LossResult> | null
  image: { id: number; taken_at: string; state: ImageState; shelf: string } | null
  saved: DriveTask<{ archive?: string; folder?: string; files?: number; bytes?: number; missed?: string[] }>[]
}

interface DriveFacts {
  id: number
  port: string
  maker: string
  model: string
  bus: string
  capacity: number
  rotating: boolean | null
  serial: string
  health: Health
  parts: Part[]
  hosts: string[]
  problem: string | null
  written_at: string | null
  /** When the system on it was last started, where that is known. */
  started_at: string | null
  owner: string | null
  shelves: string[]
}

export interface DriveCard extends DriveFacts {
  /** Whether its label can prove it. */
  provable: boolean
  loss: Loss
  verdict: { state: 'clear' | 'ask' | 'refused'; facts: Fact[]; reason: Fact | null; decisions?: string[] }
}

export interface Unplug {
  id: number
  drive_id: number
  port: string
  state: 'waiting' | 'away' | 'passed' | 'void'
  reason: string | null
  ends_at: string
  good: boolean
}

export interface LookAlike {
  port: string
  serial: string
  name: string
  capacity: number
  marks: number[]
}

export interface TargetView {
  waits_for?: StationName
  listed_at?: string
  sealed_id?: number | null
  locked_until?: string | null
  unplug?: Unplug | null
  alike?: LookAlike[]
  shelves?: { id: number; name: string; drive_id: number | null; free_bytes: number | null }[]
  drives: DriveCard[]
}

/** What somebody wants of a layout; docs/layout.md says what each field means. */
export interface Wish {
  way?: Way
  part?: number
  by?: 'size' | 'used'
  parts?: Record<string, { start?: number; size?: number }>
  over?: number
  at?: number
  size?: number
  leave_out?: number[]
  free?: number | string
  table?: 'gpt' | 'mbr'
  identity?: 'keep' | 'renew'
  rewrite?: boolean
  align?: 'mib' | 'image'
  air?: number
}

export type Way = 'as_in_image' | 'grow' | 'spread' | 'shrink' | 'by_hand' | 'part'

/** A part at its place on the target. number is the one in the image, negative where the part stays on the target. */
export interface PlacedPart extends Part {
  number: number
  to_number: number
  how: string
  kept: boolean
  least_bytes: number
  most_bytes: number | null
  resizable: boolean
  reason: string | null
  image_bytes: number
}

export interface LayoutTry {
  id: number
  docket_id: number
  state: 'queued' | 'running' | 'done' | 'failed' | 'stopped'
  digest: string
  progress: { order?: string; done?: number; total?: number } | null
  facts: Fact[]
  error: string | null
  stop_asked: boolean
  at: string
  by: string
  startable: boolean
  trial: Trial | null
}

export interface LayoutPreset {
  id: number
  name: string
  wish: Wish
  by: string
}

export interface LayoutView {
  waits_for?: StationName
  image?: { parts: Part[]; size_bytes: number }
  after?: { parts: PlacedPart[]; size_bytes: number; free_at_end: number; sector: number; unit: number; limit_bytes: number; table: 'gpt' | 'mbr' | null }
  now?: { parts: Part[]; size_bytes: number }
  wish?: Wish
  way?: Way
  valid?: boolean
  digest?: string
  problem?: { title: string; message: string; hint?: string; part?: number | null } | null
  remedies?: { words: string; wish: Wish }[]
  proposal?: { wish: Wish; why: string }
  scratch_bytes?: number
  rewrites?: { path: string; old: string; new: string }[]
  sealed?: boolean
  try?: LayoutTry | null
  presets?: LayoutPreset[]
}

export interface Order {
  id: string
  kind: string
  title: string
  detail: string
  bytes: number | null
  part: number | null
}

export type WriteState = 'queued' | 'running' | 'done' | 'failed' | 'stopped' | 'paused'

/** What somebody can do about the trouble that a write stopped at. */
export interface Choice {
  id: string
  title: string
  detail: string
}

export interface WriteTrouble {
  side: 'source' | 'target' | 'scratch'
  kind: string
  message: string
  part: number | null
  part_name: string | null
  files: { part: number; path: string | null; size: number | null }[]
  choices: Choice[]
}

export interface WriteManner {
  unused: 'discard' | 'zero' | 'leave'
  differing: boolean
  /** The image was taken of this very drive. */
  own_drive: boolean
}

export interface Write {
  id: number
  docket_id: number
  state: WriteState
  progress: Progress
  speeds: number[]
  outcomes: { id: string; seconds: number; bytes: number | null; resumed: boolean; moved?: number; spared?: number }[]
  error: string | null
  verified: boolean
  mismatches: { cluster: number | null; offset: number; part: number | null }[]
  started_at: string | null
  finished_at: string | null
  stop_asked: boolean
  pause_asked: boolean
  port: string | null
  trouble: WriteTrouble | null
  decisions: { choice: string; title: string; by: string; at: string }[]
  summary: { spared: number; discarded: number; rewritten: number; digest: string | null } | null
  technician: string
  left: { low: number; high: number } | null
}

/** A write as it is seen from afar. */
export interface OpenWrite extends Write {
  docket_number: string
  computer: string
  place: string | null
  label: string
  order: string | null
}

export interface WriteView {
  waits_for: StationName | null
  orders: Order[]
  target: {
    port: string | null
    label: string
    serial: string
    capacity: number
    model: string
    attached: boolean
    parts: Part[]
    size_bytes: number
  } | null
  expected: { low: number; high: number; measured: number; probability?: number; orders?: Record<string, number> } | null
  write: Write | null
  manner: WriteManner | null
  /** Jobs that the worker does first. */
  before: number
}

/** A step of the start-up chain; mend is set where Evrel can do what the remedy says. */
export interface StartStep extends Fact { remedy?: string; mend?: string }

export interface Mend {
  id: number
  kind: string
  title: string
  before: string | null
  after: string | null
  bytes: number
  on_disk: boolean
  by: string
  at: string
  undone_at: string | null
  undone_by: string | null
}

export interface DriverPack { name: string; provider: string | null; kind: string | null; version: string | null; dated: string | null; device: string; identifier: string }

export interface MendDraft { title: string; before: string; after: string; bytes?: number; places?: [number, number][] }

export interface ChecklistItem {
  id: string
  title: string
  detail: string
  done: boolean
  note: string | null
  by: string | null
  at: string | null
  photo: string | null
}

/** The stand-in for the docket's computer; media is what else is plugged in and could be started, or is a twin. */
export interface AtHand { name: string; on: boolean; boot_order: string[]; media: { port: string; word: string }[] }

/** What a started system is asked; password says only whether one is kept. */
export interface ProofWish { user?: string; command?: string; expect?: string; password: boolean }

export interface StartView {
  waits_for: StationName | null
  check: { state: State; at: string; steps: StartStep[] } | null
  trial: Trial | null
  mends: Mend[]
  trial_missing: string | null
  computer: string
  firmware: 'uefi' | 'bios'
  compared: number | null
  signed_off: boolean
  pictures: { title: string; at: string; outcome: string | null; picture: string }[]
  at_hand: AtHand | null
  checklist: ChecklistItem[]
  proof: ProofWish
  hardware: string | null
  controller: string | null
}

export interface Catalogue {
  images: ImageRow[]
  total: number
  from: number
  states: Partial<Record<ImageState, number>>
}

export interface Shelf {
  id: number
  name: string
  kind: 'folder' | 'drive' | 'web'
  address: string | null
  user: string | null
  reachable: boolean
  whereabouts: string
  since: string | null
  port: string | null
  last_port: string | null
  images: number
  problems: number
  free_bytes: number | null
  total_bytes: number | null
  read_speed: number | null
  looked_at: string | null
  look: { state: 'idle' | 'queued' | 'running' | 'failed'; done: number; total: number; error: string | null }
}

/** A file or folder inside an image. */
export interface Entry {
  name: string
  path: string
  type: 'file' | 'directory' | 'symlink' | 'other'
  size: number
  modified_at: string | null
  /** Why its contents cannot be read here. */
  note: string | null
}

export interface Listing {
  path: string
  from: number
  total: number
  entries: Entry[]
}

export interface FilePreview {
  path: string
  size: number
  modified_at: string | null
  kind: 'text' | 'hex' | 'picture' | 'empty'
  text: string
  cut: boolean
}

/** Files of one path, in all images that hold it. */
export interface FileGroup {
  name: string
  path: string
  part: number
  images: { image_id: number; computer: string | null; taken_at: string; state: ImageState; shelf: string; size: number; modified_at: string | null }[]
}

export interface Unsearched {
  unchecked: number
  parts: { image_id: number; computer: string | null; taken_at: string; part: number; kind?: string; problem?: string }[]
}

export interface ChangedFolder {
  path: string
  came: number
  went: number
  changed: number
  bytes: number
  files: { name: string; change: 'came' | 'went' | 'changed'; before: number | null; after: number | null; modified_at: string | null }[]
}

export interface Comparison {
  older: { id: number; taken_at: string }
  newer: { id: number; taken_at: string }
  parts: { number: number; name: string; note: string | null; same: number; came: number; went: number; changed: number; folders: ChangedFolder[] }[]
}

export interface BenchDrive extends Omit<DriveFacts, 'port'> {
  /** What the bench calls it: a handle for pulling and plugging. */
  name: string
  wwn: string | null
  removable: boolean
  logical_sector: number
  physical_sector: number
  read_only: boolean
  in_use: string | null
  faults: Record<string, unknown>
  newest: { path: string; at: string } | null
  docket: string | null
  protection: { by: string; note: string; until: string | null } | null
  refused: Fact | null
  decisions: Fact[]
  disk_guid: string | null
  task: DriveTask<{ message?: string; state?: string; how?: string }> | null
}

export interface BenchComputer {
  name: string
  firmware: string
  boot_order: string[]
  on: boolean
}

export interface Bench {
  listed_at: string
  ports: { port: string; drive: BenchDrive | null }[]
  unplug: Unplug | null
  spare: { name: string; serial: string; maker: string; model: string; bus: string; capacity: number }[]
  computers: BenchComputer[]
}

/** All that is remembered of a drive. */
export interface DriveRecord {
  id: number
  owner: string | null
  last_seen_at: string | null
  sightings: { port: string; from: string; until: string }[]
  dockets: { id: number; number: string; computer: string }[]
  images: { id: number; taken_at: string; shelf: string; state: ImageState }[]
  written: { at: string; docket: string; state: string; verified: boolean; image_id: number; image_taken_at: string }[]
  tasks: DriveTask[]
}

export interface Found {
  kind: 'docket' | 'image' | 'drive' | 'file'
  title: string
  detail: string
  path: string
}

export interface Colleague { id: number; name: string; short_name: string }

/** A closed docket among the records. */
export interface RecordRow {
  id: number
  docket: string
  computer: string
  place: string | null
  cause: string
  opened_at: string
  opened_by: string
  closed_at: string | null
  closed_by: string | null
  proof: string | null
  image_taken_at: string | null
  image_shelf: string | null
  drive_serial: string | null
  drive_model: string | null
  written_bytes: number | null
  seconds: number | null
  expected_low: number | null
  expected_high: number | null
  verified: boolean | null
  mends: number
  stations: { name: StationName; seconds: number }[]
  lost: number
  open_points: number
  computer_id: number
  drive_id: number | null
}

export interface RecordsPage { rows: RecordRow[]; from: number; total: number; causes: Record<string, number> }

export interface ComputerHistory {
  name: string
  place: string | null
  model: string | null
  firmware: string
  identity: string | null
  dockets: { id: number; number: string; cause: string; opened_at: string; closed_at: string | null; state: string; proof: string | null }[]
  images: { id: number; taken_at: string; shelf: string; used_bytes: number; state: ImageState }[]
  drives: { id: number; name: string; serial: string; capacity: number }[]
}

export interface DriveHistory {
  name: string
  serial: string
  capacity: number
  bus: string | null
  port: string | null
  owner: string | null
  last_seen_at: string | null
  sightings: { port: string; from: string; until: string }[]
  writes: { docket_id: number; number: string; computer: string; at: string; state: string; verified: boolean; image_taken_at: string; seconds: number | null }[]
  tasks: { kind: string; state: string; at: string }[]
}

export interface DocketEvent { id: number; kind: string; text: string; by: string | null; at: string }
