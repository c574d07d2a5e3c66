// Written by scripts/docs.py from the API's description; change the code, then run make docs.

declare namespace Wire {
  type Document = Record<string, any>;
  type Edit = Record<string, any>;
  type Job<Result> = string & { comesTo?: Result };

  type ActsAnswer = {
    revision: number;
    undo: number;
    redo: boolean;
    words: string;
    made: Array<string>;
    scene: Scene | null;
  };

  type ActsRequest = {
    base?: number | null;
    acts: Array<any>;
    try?: boolean;
  };

  type Advice = {
    step: string;
    field: string;
    value: string;
    words: string;
  };

  type AdviceRequest = {
    step: string;
    edit?: Edit | null;
  };

  type AdviceResult = {
    advice: Advice | null;
  };

  type ArtAnswer = {
    art: KeptArt;
  };

  type Band = {
    upto: number | null;
    words: string;
    paint: string;
  };

  type Bar = {
    low: number;
    high: number;
    at: number;
  };

  type BeginningRequest = {
    base: number;
    like: string;
  };

  type BodyContact = {
    bodies: [string, string];
    names: [string, string];
    kind: string;
    place: [number, number, number];
    volume: number;
    direction: [number, number, number];
  };

  type BuildRequest = {
    upto?: string | null;
    before?: string | null;
    picks?: Array<Record<string, any>>;
    exact?: boolean;
  };

  type BuildResult = {
    document: string;
    ok: boolean;
    steps: Array<BuiltStep>;
    bodies: Array<ShownBody>;
    called: Record<string, string>;
    renamed: Array<[string, string, string]>;
    sketches: Array<DrawnSketch>;
    datums: Array<DrawnDatum>;
    lines: Record<string, Array<Array<[number, number, number]>>>;
    contacts: Array<BodyContact>;
    taken: Record<string, Record<string, [number, number]>>;
    frames: Record<string, SketchFrame>;
    ms: number;
    picks: Array<LitPick>;
    stroke: Stroke | null;
  };

  type BuiltStep = {
    id: string;
    type: string;
    status: string;
    field: string;
    message: string;
    notes: Array<string>;
    readings: Array<Reading>;
    flags: Array<Flag>;
    culprits: Array<Record<string, any>>;
    sized: boolean;
    figures: Record<string, number>;
    ms: number;
    hint: string;
    hints: Array<Hint>;
    words: string;
    handles: Array<Handle>;
    offers: Array<[string, string]>;
    travel: Travel | null;
    reused: boolean;
  };

  type CaptionedPicture = {
    words: string;
    blob: string;
  };

  type CompareRequest = {
    other?: string | null;
    first?: number | null;
    second?: number | null;
  };

  type ComparedFace = {
    kind: string;
    words: string;
    first: number | null;
    second: number | null;
    by?: number | null;
    walls?: [number, number] | null;
    pair?: number;
  };

  type ComparedFigure = {
    name: string;
    unit: string;
    first: string;
    second: string;
    change: string;
  };

  type Comparison = {
    words: Array<string>;
    sides: Array<Array<ShownBody>>;
    figures: Array<ComparedFigure>;
    faces: Array<ComparedFace>;
    pairs: Array<[string, string]>;
    only: Array<Array<OnlyInOne>>;
    steps: Array<StepChange>;
    sound: boolean;
    steel?: Array<SteelChange>;
  };

  type ConstraintRow = {
    ids: Array<string>;
    type: string;
    words: string;
    on: Array<string>;
    twice: boolean;
  };

  type Cut = {
    body: string;
    role: string;
    item: number;
    loops: Array<Array<[number, number]>>;
  };

  type CutBody = {
    body: string;
    name: string;
    lines: Array<Array<[number, number, number]>>;
  };

  type CutWall = {
    body: string;
    ends: [[number, number, number], [number, number, number]];
    wall: number;
  };

  type DocumentAnswer = {
    revision: number;
    undo: number;
    redo: boolean;
    document: Document;
  };

  type DragAnswer = {
    scene: MovedScene;
    radii: Record<string, number>;
    revision: number;
  };

  type DragRequest = {
    name: string;
    from: [number, number];
    to: [number, number];
    begin?: boolean;
  };

  type DrawingTool = {
    name: string;
    family: string;
    clicks: Array<string>;
    sizes: Array<string>;
    asks: Array<number>;
    aimed: Array<string>;
    more: boolean;
  };

  type DrawnDatum = {
    id: string;
    name: string;
    kind: string;
    lines: Array<Array<[number, number, number]>>;
  };

  type DrawnEntity = {
    kind: 'line' | 'arc' | 'circle' | 'chain' | 'spline';
    a?: [number, number] | null;
    b?: [number, number] | null;
    c?: [number, number] | null;
    r?: number | null;
    ccw?: boolean | null;
    large?: boolean;
    points?: Array<Array<number>>;
    poles?: Array<[number, number]>;
    id: string;
    type: string;
    ends: Array<string>;
    construction: boolean;
    loose: boolean;
    taken: boolean;
    handles?: Array<string>;
    through?: Array<string>;
  };

  type DrawnRegion = {
    key: string;
    loops: Array<Array<Shape>>;
    area: number;
    filled: boolean;
  };

  type DrawnSize = {
    id: string;
    type: string;
    title: string;
    value: string | null;
    text: string;
    driven: boolean;
    on: Array<string>;
    at: [number, number];
    placed: boolean;
    lines: Array<[number, number, number, number]>;
    arcs: Array<[number, number, number, number, number]>;
    arrows: Array<[number, number, number, number]>;
  };

  type DrawnSketch = {
    id: string;
    name: string;
    lines: Array<Array<[number, number, number]>>;
    loose: Array<boolean>;
    freedoms: number;
    used: boolean;
  };

  type EditRequest = {
    upto?: string | null;
    base: number;
    edit: Edit;
    instead?: boolean;
  };

  type ExportRequest = {
    format: 'step' | 'stl' | '3mf' | 'glb';
    bodies?: Array<string> | null;
    tolerance?: number | string | null;
  };

  type FileBodies = {
    bodies: Array<string>;
    taken: string;
  };

  type FinishedFaces = {
    finish: ShownFinish;
    faces: Array<number>;
  };

  type Flag = {
    field: string;
    index: number;
    status: string;
    words: string;
    repairs?: Array<Repair>;
  };

  type Gauge = {
    id: string;
    name: string;
    value: string;
    unit: string;
    state: string;
    verdict: string;
    bar?: Bar | null;
    map?: string;
    bands?: Array<Band>;
    offenders?: Array<Offender>;
    figures?: Array<GaugeFigure>;
    other_map?: string;
  };

  type GaugeFigure = {
    name: string;
    words: string;
    formula?: string;
    source?: string;
  };

  type Gauges = {
    gauges?: Array<Gauge>;
    skins?: Array<JudgedSkin>;
    gate?: [number, number, number] | null;
    why?: string;
    short?: boolean;
  };

  type GaugesRequest = {
    upto?: string | null;
    every?: boolean;
  };

  type GaugesStarted_Gauges = {
    job: Job<Gauges>;
    revision: number;
  };

  type GradeLook = {
    kind?: 'solid' | 'clear' | 'frosted' | 'metal';
    colour?: string;
    gloss?: number;
    tint?: number;
  };

  type GradeRequest = {
    name: string;
    like?: string;
    source?: string;
    shrinkage?: [number, number] | null;
    density: number;
    wall?: [number, number, number] | null;
    draft?: number | null;
    rib?: number | null;
    price?: number | null;
    melt?: [number, number] | null;
    mold?: [number, number] | null;
    eject?: number | null;
    diffusivity?: number | null;
    pressure?: [number, number] | null;
    flow?: number | null;
    look?: GradeLook | null;
    was?: string;
  };

  type GuessAnswer = {
    pick: Record<string, any>;
    words: string;
    guides: Array<Guide>;
    preview: Array<TrialShape>;
    measures: Record<string, string>;
    refusal: string;
    takes?: Array<[number, string]>;
  };

  type GuessRequest = {
    cursor: [number, number];
    unit?: number;
    tool?: string | null;
    picks?: Array<Record<string, any>>;
    sizes?: Record<string, any>;
    woken?: Array<string>;
    free?: boolean;
    typed?: [string, string] | null;
    ghosts?: Array<string>;
  };

  type Guide = {
    a: [number, number];
    b: [number, number];
  };

  type Handle = {
    field: string;
    kind: 'length' | 'angle';
    origin: [number, number, number];
    direction: [number, number, number];
    value: number;
    least?: 'any' | 'zero' | 'positive';
    rate?: number;
    arm?: [number, number, number];
    ghost?: Array<Array<[number, number, number]>>;
  };

  type Hint = {
    rule: string;
    step: string;
    words: string;
    fix?: string;
    edit?: Record<string, any> | null;
  };

  type HistoryAnswer = {
    revisions: Array<PastRevision>;
  };

  type HoleChange = {
    verdict: 'drilled' | 'opened up' | 'closed';
    diameter: number;
    place: [number, number, number];
  };

  type InPlaceAnswer = {
    document: string;
  };

  type InPlaceRequest = {
    body: string;
  };

  type InUnit = {
    size: Array<string>;
    warning: string;
    ok: boolean;
  };

  type Item = {
    number: number;
    count: number;
    what: string;
    size: string;
    material: string;
    norm: string;
    bodies: Array<string>;
  };

  type JobAnswer = {
    id: string;
    kind: string;
    state: 'waiting' | 'running' | 'done' | 'failed' | 'cancelled' | 'too long' | 'died';
    message: string;
    hint: string;
    seconds: number;
    at: Progress | null;
    seen: OnTheWay | null;
    result: AdviceResult | BuildResult | Comparison | FileBodies | Gauges | Measured | OutlineCurves | Picture | PictureFacts | Placed | PlacesResult | Pulls | References | ReportResult | Section | Shelved | TakenCurves | UnitChange | WrittenFile | null;
  };

  type JudgedSkin = {
    body: string;
    mesh: string;
    skin: string;
    maps: Record<string, string>;
    triangles: number;
    traces: Array<Array<[number, number, number]>>;
  };

  type KeptArt = {
    file: string;
    asset: string;
  };

  type KeptPhoto = {
    asset: string;
    name: string;
    pixels: [number, number];
  };

  type Label = {
    item: number;
    place: [number, number];
  };

  type Leg = {
    begin: number;
    end: number;
    by: [number, number, number];
  };

  type LessonAnswer = {
    known: boolean;
    title: string;
    tasks: Array<LessonTask>;
    lights: Array<string>;
    edit: Record<string, any> | null;
    ends: string;
    all: string;
  };

  type LessonTask = {
    do: string;
    why: string;
    done: boolean;
  };

  type LinkPick = {
    document: string;
    body?: string | null;
    revision?: number | null;
    also?: Array<string>;
    every?: boolean;
  };

  type LitPick = {
    body: string;
    pick: Record<string, any>;
    status: string;
    words: string;
    faces?: Array<number>;
    edges?: Array<number>;
    point?: [number, number, number] | null;
  };

  type Look = {
    name?: string;
    since?: string;
    colour?: string;
    hidden?: boolean;
    clear?: boolean;
  };

  type LookAnswer = {
    build: BuildResult | null;
    gauges: Gauges | null;
  };

  type Mark = {
    id: string;
    type: string;
    at: [number, number];
    direction: [number, number];
  };

  type Measured = {
    picks: Array<Record<string, any>>;
    line: [[number, number, number], [number, number, number]] | null;
    figures: Array<MeasuredFigure>;
  };

  type MeasuredFigure = {
    name: string;
    words: string;
    value: number;
  };

  type MeasuresRequest = {
    upto?: string | null;
    picked: Array<PickedRequest>;
  };

  type MilestoneRequest = {
    revision: number;
    name?: string;
  };

  type Motion = {
    point: string;
    at: [number, number];
    along: [number, number] | null;
  };

  type MovedScene = {
    points: Record<string, [number, number]>;
    entities: Array<DrawnEntity>;
    sizes: Array<DrawnSize>;
    marks: Array<Mark>;
  };

  type Named = {
    name: string;
  };

  type NumberedRevision = {
    revision: number;
  };

  type Offender = {
    words: string;
    place: [number, number, number];
    direction: [number, number, number];
    body: string;
    faces: Array<number>;
    other?: string;
    other_faces?: Array<number>;
  };

  type OfferedRule = {
    rule: Record<string, any>;
    words: string;
    items: Array<number>;
  };

  type OnTheWay = {
    number: number;
    bodies: Array<ShownBody>;
  };

  type OnlyInOne = {
    volume: number;
    mesh?: Array<string>;
  };

  type OpenEnd = {
    at: [number, number];
    other: [number, number] | null;
    width: number | null;
    closes: boolean;
  };

  type OutlineCurves = {
    curves: Array<Record<string, any>>;
    notes?: Array<string>;
    off?: number;
  };

  type PastRevision = {
    number: number;
    change: string;
    made: string;
    milestone: string;
    is_head: boolean;
    parent: number | null;
  };

  type PhotoAnswer = {
    photo: KeptPhoto;
  };

  type PickedRequest = {
    body: string;
    mesh?: string | null;
    face?: number | null;
    edge?: number | null;
    point?: [number, number, number] | null;
  };

  type Picture = {
    blob: string | null;
  };

  type PictureAnswer_Picture = {
    job: Job<Picture> | null;
    blob: string | null;
  };

  type PictureFacts = {
    kind: string;
    width: number;
    height: number;
  };

  type PictureRequest = {
    revision?: number | null;
  };

  type Place = {
    after: string | null;
    why?: string;
  };

  type Placed = {
    document: string;
    around: Array<PlacedBody>;
    left: Array<string>;
  };

  type PlacedBody = {
    part: LinkPick;
    placed: Array<number>;
  };

  type PlacesRequest = {
    step: string;
  };

  type PlacesResult = {
    places: Array<Place>;
  };

  type PlaneRequest = {
    origin: [number, number, number];
    normal: [number, number, number];
  };

  type PreviewRequest = {
    upto?: string | null;
    edit: Edit;
  };

  type PreviewStarted_BuildResult = {
    job: Job<BuildResult>;
    change: string;
  };

  type Progress = {
    number: number;
    of: number;
    label: string;
    id: string;
  };

  type Pull = {
    direction: [number, number, number];
    hidden: number;
  };

  type Pulls = {
    pulls: Array<Pull>;
  };

  type Reading = {
    words: string;
    state: 'good' | 'near' | 'over';
  };

  type Reference = {
    pick: Record<string, any>;
    word: string;
    flat?: boolean | null;
    area?: number | null;
    rules?: Array<OfferedRule>;
    further?: Array<Record<string, any>>;
    words?: string;
  };

  type References = {
    picks: Array<Reference>;
  };

  type ReferencesRequest = {
    upto?: string | null;
    picked: Array<PickedRequest>;
    before?: string | null;
    spots?: boolean;
    loops?: boolean;
    rules?: boolean;
  };

  type Repair = {
    words: string;
    picks: Array<Record<string, any>>;
  };

  type ReportResult = {
    gauges: Array<Gauge>;
    size: Array<number>;
    pictures: Array<CaptionedPicture>;
    failed: Array<string>;
    cautions: Array<string>;
    items?: Array<Item>;
    stack?: StackSection | null;
    surfaces?: Array<SurfaceMark>;
  };

  type RevisionAnswer_BuildResult = {
    revision: number;
    change: string;
    undo: number;
    redo: boolean;
    job: Job<BuildResult>;
  };

  type RevisionRequest = {
    revision: number;
  };

  type Scene = {
    points: Record<string, [number, number]>;
    entities: Array<DrawnEntity>;
    sizes: Array<DrawnSize>;
    marks: Array<Mark>;
    photos: Array<Record<string, any>>;
    freedoms: number;
    loose: Array<string>;
    directions: Array<Motion>;
    constraints: Array<ConstraintRow>;
    names: Record<string, string>;
    regions: Array<DrawnRegion>;
    area: number;
    gaps: Array<OpenEnd>;
    spare: Array<string>;
    crowded: string;
  };

  type Section = {
    bodies: Array<CutBody>;
    wall: CutWall | null;
  };

  type SectionsRequest = {
    upto?: string | null;
    plane: PlaneRequest;
    spot?: [number, number, number] | null;
    format?: 'dxf' | 'svg' | null;
    hidden?: Array<string>;
  };

  type Shape = {
    kind: 'line' | 'arc' | 'circle' | 'chain' | 'spline';
    a?: [number, number] | null;
    b?: [number, number] | null;
    c?: [number, number] | null;
    r?: number | null;
    ccw?: boolean | null;
    large?: boolean;
    points?: Array<Array<number>>;
    poles?: Array<[number, number]>;
  };

  type Shelved = {
    written: number;
  };

  type ShotRequest = {
    width?: number;
    height?: number;
    yaw?: number;
    pitch?: number;
    background?: 'none' | 'bench' | 'paper' | 'dusk';
    see_through?: boolean;
    apart?: number;
    film?: 'png' | 'webp' | 'gif';
    seconds?: number;
  };

  type ShownBody = {
    id: string;
    name: string;
    role: string;
    solid: boolean;
    mesh: string | null;
    volume: number;
    area: number;
    mass: number | null;
    low: [number, number, number];
    high: [number, number, number];
    faces: number;
    pull: [number, number, number] | null;
    stale: boolean;
    look: Look;
    group: Array<string>;
    finish: ShownFinish | null;
    areas: Array<FinishedFaces>;
    prints: Array<ShownPrint>;
  };

  type ShownFinish = {
    step: string;
    name: string;
    kind: string;
    colour: string;
    gloss: number;
    tint: number;
    grain: string;
  };

  type ShownPrint = {
    step: string;
    skin: string;
    picture: string;
    strained: boolean;
  };

  type SketchAnswer = {
    revision: number;
    undo: number;
    redo: boolean;
    name: string;
    unit: string;
    scene: Scene;
    tools: Array<DrawingTool>;
  };

  type SketchFrame = {
    origin: [number, number, number];
    x: [number, number, number];
    y: [number, number, number];
    normal: [number, number, number];
  };

  type StackSection = {
    width: number;
    height: number;
    cuts: Array<Cut>;
    labels: Array<Label>;
  };

  type Stage = {
    words: string;
    until: number;
  };

  type Started_AdviceResult = {
    job: Job<AdviceResult>;
  };

  type Started_Comparison = {
    job: Job<Comparison>;
  };

  type Started_Measured = {
    job: Job<Measured>;
  };

  type Started_OutlineCurves = {
    job: Job<OutlineCurves>;
  };

  type Started_PlacesResult = {
    job: Job<PlacesResult>;
  };

  type Started_Pulls = {
    job: Job<Pulls>;
  };

  type Started_References = {
    job: Job<References>;
  };

  type Started_ReportResult = {
    job: Job<ReportResult>;
  };

  type Started_Section = {
    job: Job<Section>;
  };

  type Started_TakenCurves = {
    job: Job<TakenCurves>;
  };

  type Started_UnitChange = {
    job: Job<UnitChange>;
  };

  type Started_WrittenFile = {
    job: Job<WrittenFile>;
  };

  type SteelChange = {
    body: string;
    name: string;
    verdict: 'unchanged' | 'steel-safe' | 'to be made anew' | 'new' | 'no longer there' | 'could not be compared';
    off: number;
    on: number;
    holes?: Array<HoleChange>;
  };

  type StepChange = {
    step: string;
    what: string;
    first: string | null;
    second: string | null;
  };

  type Stroke = {
    stages: Array<Stage>;
    legs: Record<string, Array<Leg>>;
    aside?: Array<string>;
    up?: [number, number, number] | null;
  };

  type SurfaceMark = {
    what: string;
    code: string;
    area: number;
    place: [number, number, number];
    part: string;
    formed_by: Array<string>;
  };

  type TakeRequest = {
    how: 'edge' | 'section' | 'silhouette' | 'all';
    picked: PickedRequest;
  };

  type TakenCurves = {
    curves: Array<Record<string, any>>;
  };

  type TraceRequest = {
    photo: string;
  };

  type Travel = {
    body: string;
    kind: 'slide' | 'turn';
    origin: [number, number, number];
    direction: [number, number, number];
    far: number;
    free: number;
    meets?: string;
  };

  type TrialShape = {
    kind: 'line' | 'arc' | 'circle' | 'chain' | 'spline';
    a?: [number, number] | null;
    b?: [number, number] | null;
    c?: [number, number] | null;
    r?: number | null;
    ccw?: boolean | null;
    large?: boolean;
    points?: Array<Array<number>>;
    poles?: Array<[number, number]>;
    construction: boolean;
  };

  type TrimAnswer = {
    piece: Shape;
  };

  type TrimRequest = {
    entity: string;
    at: [number, number];
  };

  type UnitChange = {
    size: InUnit;
    numbers: InUnit;
    all_numbers: InUnit;
    with_units: Array<string>;
  };

  type UnitsRequest = {
    unit: 'mm' | 'cm' | 'm' | 'in';
  };

  type UpTo = {
    upto?: string | null;
  };

  type WrittenFile = {
    blob: string;
    name: string;
    bytes: number;
  };
}
