// What says where a recording is cut, and what is done with a piece.
import { Button, InputNumber, Select, Slider } from 'antd';
import { addresses } from '../api/client';
import { Chip } from '../lanes/marks';
import { codeOf, familyOf } from '../shelf/kinds';
import { useSounds } from './state';
import type { Cut } from './useCut';

/** The marks: at attacks, at cue points or by hand. */
export function CutTools({ cut }: { cut: Cut }) {
  const { sample, piece, starts, by, setBy, setMarks, at, byHand } = cut;
  return (
    <div className="tools" data-id="cutting">
      <span className="lab">Cut sounds from</span>
      <b className="ellipsis" style={{ maxWidth: 180 }}>
        {sample?.name}
      </b>
      <span className="lab">
        {sample &&
          `${sample.facts.seconds.toFixed(1)} s, ${sample.rate / 1000} kHz${sample.bits ? `, ${sample.bits} bit` : ''}`}
      </span>
      <span className="sep" />
      <span className="lab">Marks at</span>
      <Select
        size="small"
        style={{ width: 92 }}
        aria-label="Marks at"
        value={by}
        options={[
          { value: 'attacks', label: 'attacks' },
          ...((sample?.cues.length ?? 0) > 0 ? [{ value: 'cues', label: 'cue points' }] : []),
          { value: 'hand', label: 'by hand' },
        ]}
        onChange={(v: 'attacks' | 'cues' | 'hand') => {
          if (v === 'hand') byHand(starts);
          else setBy(v);
          if (v === 'cues') setMarks(sample?.cues ?? []);
        }}
      />
      <Button
        size="small"
        title="A mark in the middle of the sound chosen"
        onClick={() => piece && byHand([...starts, Math.round((piece.startFrame + piece.nextFrame) / 2)])}
      >
        + Mark
      </Button>
      <Button
        size="small"
        disabled={at === 0}
        title="Join the sound chosen to the one before it"
        onClick={() => piece && byHand(starts.filter((f) => f !== piece.startFrame))}
      >
        Join two
      </Button>
      <span className="grow" />
      <Button onClick={() => useSounds.setState({ cutting: '' })}>Close</Button>
    </div>
  );
}

/** How strong an attack must be to be a mark, and what is left out. */
export function WhereToCut({ cut }: { cut: Cut }) {
  const { strength, setStrength, minGapMS, setMinGap, deadDB, setDead } = cut;
  return (
    <div className="stripside" style={{ padding: '9px 12px' }}>
      <span className="ttl">Where to cut</span>
      <div className="padsettings" style={{ padding: '6px 0', minHeight: 0 }}>
        <span className="lab">Strength</span>
        <span className="row">
          <Slider
            style={{ width: 92 }}
            min={0}
            max={1}
            step={0.02}
            value={strength}
            tooltip={{ open: false }}
            ariaLabelForHandle="Strength"
            onChange={setStrength}
          />
          <span className="num">{Math.round(strength * 100)}%</span>
        </span>
        <span className="lab">Minimum gap</span>
        <span className="row">
          <Slider
            style={{ width: 92 }}
            min={20}
            max={1000}
            step={10}
            value={minGapMS}
            tooltip={{ open: false }}
            ariaLabelForHandle="Minimum gap"
            onChange={setMinGap}
          />
          <span className="num">{minGapMS} ms</span>
        </span>
        <span className="lab">Dead air under</span>
        <InputNumber
          size="small"
          controls={false}
          style={{ width: 64 }}
          min={-100}
          max={-10}
          suffix="dB"
          aria-label="Dead air under, dB"
          value={deadDB}
          onChange={(v) => setDead(v ?? -48)}
        />
      </div>
      <p className="lab" style={{ whiteSpace: 'normal', margin: 0 }}>
        Draw a sound from the waveform down to a lane, or strike the pad it belongs to. Drag over the waveform
        for any other region.
      </p>
    </div>
  );
}

/** The piece chosen, and what is done with all of them. */
export function CutStrip({ cut }: { cut: Cut }) {
  const { hash, lanes, pieces, piece, given, seconds, at, setAt, region, give, hearPiece, chop } = cut;
  return (
    <div className="strip row" style={{ alignItems: 'stretch' }}>
      <div className="dropcol" style={{ flex: 1 }}>
        {piece ? (
          <>
            <span className="row">
              <Button size="small" onClick={() => hearPiece(piece)}>
                Hear
              </Button>
              <b>{region ? 'Region' : `Sound ${at + 1} of ${pieces.length}`}</b>
              <span className="lab">
                {seconds(piece.startFrame)} to {seconds(piece.endFrame)}
              </span>
              <span className="tag">
                <Chip code={codeOf(piece.guess.kind)} family={familyOf(piece.guess.kind)} w={22} h={16} />
                &nbsp;sounds like {piece.guess.kind}, {Math.round(piece.guess.confidence * 100)}%
              </span>
            </span>
            <span className="row">
              <span className="lab">Give it to</span>
              <Select
                size="small"
                style={{ width: 150 }}
                aria-label="Give it to"
                data-id="give-to"
                value={null}
                placeholder="a lane"
                options={lanes.map((l) => ({ value: l.note, label: l.name }))}
                onChange={(n: number | null) => n !== null && give(piece, n)}
              />
              <Button size="small" disabled={at === 0} onClick={() => setAt(at - 1)}>
                Previous
              </Button>
              <Button
                size="small"
                disabled={at >= pieces.length - 1}
                onClick={() => {
                  setAt(at + 1);
                  hearPiece(pieces[at + 1]);
                }}
              >
                Next
              </Button>
              <Button
                size="small"
                href={addresses.part(hash, piece.startFrame, piece.endFrame)}
                title="A WAV at the recording’s own rate and depth"
              >
                Export as WAV
              </Button>
            </span>
          </>
        ) : (
          <span className="lab" role="status">
            {cut.looking
              ? 'Looking for attacks…'
              : 'No sound reaches over the strength chosen. Lower it, or drag over the waveform.'}
          </span>
        )}
      </div>
      <div className="dropcol" style={{ width: 360, borderRight: 0 }}>
        <span className="ttl">
          {cut.looking ? 'Looking for attacks…' : `${pieces.length} sounds between marks`}
        </span>
        <span className="lab">{given.size} given to lanes</span>
        <span className="row">
          <Button
            type="primary"
            data-id="chop"
            style={{ width: 112 }}
            disabled={pieces.length === 0}
            onClick={() => chop({ by: 'kind' })}
          >
            Chop all
          </Button>
          <span>to lanes by kind, shown before it is done</span>
        </span>
        <span className="row">
          <Button style={{ width: 112 }} disabled={pieces.length === 0} onClick={() => chop({ by: 'order' })}>
            Spread on pads
          </Button>
          <span>one a pad, in order, with a pattern that plays them</span>
        </span>
      </div>
    </div>
  );
}
