/** The parser of abcjs: what of its results is read here. Durations are parts of a whole note, without the factor of a tuplet. */
declare module 'abcjs/src/parse/abc_parse.js' {
  export interface AbcPitch {
    /** Steps of the staff from middle C up. */
    readonly pitch: number
    readonly accidental?: string
    readonly startTie?: object
    readonly endTie?: boolean
    readonly startSlur?: readonly { readonly label: number }[]
    readonly endSlur?: readonly number[]
  }

  export interface AbcNote {
    readonly el_type: 'note'
    readonly duration: number
    readonly pitches?: readonly AbcPitch[]
    readonly rest?: { readonly type: string; readonly text?: number | string }
    readonly gracenotes?: readonly AbcPitch[]
    readonly decoration?: readonly string[]
    readonly chord?: readonly { readonly name: string; readonly position: string }[]
    readonly lyric?: readonly { readonly syllable: string; readonly divider: string }[]
    readonly startTriplet?: number
    readonly tripletMultiplier?: number
    readonly tripletR?: number
    readonly endTriplet?: boolean
    readonly startSlur?: readonly { readonly label: number }[]
    readonly endSlur?: readonly number[]
  }

  export interface AbcBar {
    readonly el_type: 'bar'
    readonly type: string
    readonly startEnding?: string
    readonly endEnding?: boolean
    readonly decoration?: readonly string[]
    readonly chord?: AbcNote['chord']
  }

  export interface AbcKey {
    readonly accidentals?: readonly { readonly acc: string; readonly note: string }[]
    readonly root?: string
    readonly mode?: string
  }

  export interface AbcMeter {
    readonly type: string
    readonly value?: readonly { readonly num: string; readonly den?: string }[]
  }

  export interface AbcClef {
    readonly type?: string
    readonly transpose?: number
  }

  export interface AbcTempo {
    readonly duration?: readonly number[]
    readonly bpm?: number
    readonly preString?: string
    readonly postString?: string
  }

  export type AbcElement =
    | AbcNote
    | AbcBar
    | ({ readonly el_type: 'key' } & AbcKey)
    | ({ readonly el_type: 'meter' } & AbcMeter)
    | ({ readonly el_type: 'clef' } & AbcClef)
    | ({ readonly el_type: 'tempo' } & AbcTempo)
    | { readonly el_type: 'part'; readonly title: string }
    | { readonly el_type: 'midi'; readonly cmd: string; readonly params: readonly (number | string)[] }
    | { readonly el_type: 'stem' | 'gap' | 'style' | 'color' | 'scale' | 'transpose' }

  export interface AbcStaff {
    readonly clef?: AbcClef
    readonly key?: AbcKey
    readonly meter?: AbcMeter
    readonly title?: readonly (string | undefined)[]
    readonly brace?: string
    readonly bracket?: string
    readonly voices: readonly (readonly AbcElement[])[]
  }

  export interface AbcTune {
    readonly metaText: {
      readonly title?: string
      readonly composer?: string
      readonly tempo?: AbcTempo
      readonly 'abc-copyright'?: string
    }
    readonly formatting: { readonly midi?: { readonly program?: readonly (number | string)[] } }
    readonly lines: readonly {
      readonly staff?: readonly AbcStaff[]
      readonly subtitle?: { readonly text: string }
    }[]
  }

  export default class Parse {
    parse(text: string, options: object, startAt: number): void
    getTune(): AbcTune
    getWarnings(): readonly string[] | undefined
  }
}
