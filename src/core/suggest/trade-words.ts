import { stem } from '@core/naming';

/** Abbreviations that people who name recordings use, written out. */
export const abbreviations: ReadonlyMap<string, string> = new Map(
  Object.entries({
    amb: 'ambience',
    env: 'ambience',
    frst: 'forest',
    mvmt: 'movement',
    foot: 'footstep',
    ambi: 'ambience',
    atmo: 'ambience',
    atmos: 'ambience',
    bg: 'ambience',
    bgs: 'ambience',
    bkg: 'ambience',
    rt: 'room tone',
    rm: 'room',
    tn: 'tone',
    rmtn: 'room tone',
    fs: 'footsteps',
    ftsp: 'footsteps',
    ftst: 'footsteps',
    ft: 'footsteps',
    stps: 'footsteps',
    imp: 'impact',
    impct: 'impact',
    hndl: 'handle',
    mvt: 'movement',
    mov: 'movement',
    mvmnt: 'movement',
    mtl: 'metal',
    met: 'metal',
    wd: 'wood',
    wdn: 'wooden',
    gls: 'glass',
    wtr: 'water',
    dr: 'door',
    drs: 'doors',
    veh: 'vehicle',
    mot: 'motor',
    eng: 'engine',
    mach: 'machine',
    mech: 'mechanical',
    elec: 'electric',
    expl: 'explosion',
    explo: 'explosion',
    gnsht: 'gunshot',
    sfx: '',
    science: '',
    fiction: 'scifi',
    fx: '',
    whsh: 'whoosh',
    wsh: 'whoosh',
    crwd: 'crowd',
    vox: 'voice',
    vo: 'voice',
    laff: 'laugh',
    scrm: 'scream',
    brth: 'breath',
    btn: 'button click',
    ui: 'user interface',
    kbd: 'keyboard',
    tel: 'telephone',
    cel: 'cellphone',
    clk: 'click',
    sqk: 'squeak',
    sq: 'squeak',
    crk: 'creak',
    brk: 'break',
    drp: 'drop',
    spl: 'splash',
    thnd: 'thunder',
    lgt: 'lightning',
    trn: 'train',
    heli: 'helicopter',
    mc: 'motorcycle',
    hvy: '',
    lt: '',
    med: '',
    sml: '',
    lrg: '',
    perc: 'percussion',
    synth: 'synthetic',
    lfe: 'rumble',
    sub: 'boom',
    ir: 'impulse response',
    wt: 'wild track',
    pfx: 'production',
    vcl: 'vehicle',
    gtr: 'guitar',
    pno: 'piano',
    hh: 'hi-hat',
    bd: 'kick drum',
    sd: 'snare',
  }),
);

/** Words that say how something was recorded or how it goes, and so next to nothing about what it is. */
export const plain: ReadonlySet<string> = new Set(
  (
    'a an the of on in at to from by with and or for off up down into onto out over under through against across around it its ' +
    'is are be as one two three four five six seven eight nine ten first second third take takes tk vers version alt var ' +
    'variation mono stereo quad surround lr ms xy ortf ambisonic binaural loop looped seamless close near far distant dist ' +
    'distance wide medium mid perspective int ext interior exterior inside outside indoor outdoor soft hard loud quiet slow ' +
    'fast quick short long light heavy big small large little huge tiny high low deep dry wet old new good bad best single ' +
    'multiple several various many few some group series set pack vol volume part edit final mix master raw clean dirty ' +
    'khz hz bit wav aif mp3 left right front rear back side top bottom center start stop begin end idle steady constant ' +
    'continuous intermittent random gentle aggressive subtle very more less different same general misc miscellaneous other ' +
    's thing things stuff fits nowhere else made make use used people person place kind day night morning evening summer winter ' +
    'black white red blue green sound sounds effect effects sfx fx recording recorded untitled copy file audio track channel ' +
    'prop player enemy npc phys env obj lp os file new bounce render export test that which what who where one’s their his her make go goes'
  )
    .split(' ')
    .flatMap((word) => [word, stem(word)]),
);

/** Materials by the words that name them. */
export const materials: Readonly<Record<string, readonly string[]>> = {
  Metal: ['metal', 'iron', 'steel', 'tin', 'brass', 'copper', 'aluminium', 'chain', 'wire', 'rust'],
  Wood: ['wood', 'timber', 'plank', 'oak', 'bamboo', 'log', 'plywood', 'board', 'crate', 'wooden'],
  Glass: ['glass', 'crystal', 'bottle', 'pane'],
  Stone: ['stone', 'rock', 'brick', 'concrete', 'marble', 'slate', 'boulder', 'cobble'],
  Water: ['water', 'splash', 'puddle', 'river', 'stream', 'rain'],
  Mud: ['mud', 'slime', 'goo', 'sludge'],
  Earth: ['dirt', 'soil', 'earth', 'gravel', 'sand', 'dust'],
  Cloth: ['cloth', 'fabric', 'canvas', 'denim', 'cotton', 'silk', 'jacket', 'sail'],
  Leather: ['leather', 'suede', 'saddle'],
  Paper: ['paper', 'cardboard', 'newspaper', 'book'],
  Plastic: ['plastic', 'pvc', 'nylon', 'styrofoam'],
  Rubber: ['rubber', 'latex', 'tyre'],
  Rope: ['rope', 'hawser', 'cord', 'twine'],
  Ceramic: ['ceramic', 'porcelain', 'pottery', 'tile', 'clay'],
  Ice: ['ice', 'icicle'],
  Snow: ['snow', 'slush'],
  Grass: ['grass', 'reed', 'hay', 'straw', 'sedge'],
  Leaves: ['leaf', 'foliage', 'bush'],
};

/** How near a sound was recorded, by the words that say so. */
export const perspectives: Readonly<Record<string, readonly string[]>> = {
  Close: ['close', 'near', 'cu', 'closeup', 'contact'],
  Medium: ['medium', 'midway'],
  Distant: ['distant', 'far', 'dist', 'distance', 'remote', 'faraway'],
  Interior: ['int', 'interior', 'inside', 'indoor'],
  Exterior: ['ext', 'exterior', 'outside', 'outdoor'],
  Onboard: ['onboard'],
  Overhead: ['overhead'],
  Underwater: ['underwater', 'hydrophone'],
};
