declare const coreRows: readonly Readonly<Record<string, string>>[]
export = coreRows
