/** Forms of English words that no ending explains, and what they are forms of. */
export const irregularForms: ReadonlyMap<string, string> = new Map(
  (
    'ate eat|eaten eat|beaten beat|bent bend|bit bite|bitten bite|bled bleed|blew blow|blown blow|broke break|broken break|brought bring|' +
    'built build|burnt burn|caught catch|children child|dove dive|drank drink|drew draw|drawn draw|driven drive|drove drive|drunk drink|' +
    'dug dig|fallen fall|fed feed|feet foot|fell fall|felt feel|flew fly|flown fly|fought fight|froze freeze|frozen freeze|geese goose|' +
    'ground grind|grew grow|grown grow|heard hear|held hold|hooves hoof|hung hang|knives knife|laid lay|leaves leaf|left leave|lit light|' +
    'loaves loaf|made make|men man|mice mouse|oxen ox|ran run|rang ring|rode ride|ridden ride|rung ring|sang sing|sank sink|sewn sew|' +
    'shaken shake|sheep sheep|shelves shelf|shone shine|shook shake|shot shoot|shrunk shrink|slid slide|spat spit|spoke speak|' +
    'spoken speak|sprang spring|sprung spring|spun spin|stole steal|strode stride|struck strike|stuck stick|stung sting|stunk stink|' +
    'sung sing|sunk sink|swam swim|swept sweep|swollen swell|swum swim|swung swing|teeth tooth|thieves thief|threw throw|thrown throw|' +
    'tore tear|torn tear|trodden tread|trod tread|went go|wives wife|wolves wolf|women woman|wore wear|worn wear|wound wind|wove weave|' +
    'woven weave|wrote write|written write'
  )
    .split('|')
    .map((pair) => pair.split(' ') as [string, string]),
);
