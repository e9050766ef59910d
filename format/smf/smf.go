// Package smf reads and writes Standard MIDI Files 1.0 (MIDI Manufacturers Association, RP-001), types
// 0 and 1 with metrical time.
package smf

import (
	"encoding/binary"
	"errors"
	"fmt"
	"math"
	"sort"

	"hexachord/core/music"
	"hexachord/format/damaged"
)

// Faults a caller can tell apart.
var (
	ErrNotMIDI   = errors.New("not a Standard MIDI File")
	ErrTruncated = errors.New("the MIDI file ends too early")
	ErrCoding    = errors.New("the MIDI file cannot be read")
)

// Note is one note with its length.
type Note struct {
	Tick     int // from the file's start
	Length   int // ticks, 0 when the note is never ended
	Channel  int // 1..16
	Key      int // MIDI note, 0..127
	Velocity int // 1..127
}

// TempoChange sets the tempo from Tick on.
type TempoChange struct {
	Tick int
	BPM  float64
}

// MeterChange sets the meter from Tick on.
type MeterChange struct {
	Tick  int
	Meter music.Meter
}

// Track is a named list of notes.
type Track struct {
	Name  string
	Notes []Note
}

// File is what the bench reads from or writes to a MIDI file.
type File struct {
	PPQ    int
	Meter  music.Meter // the first time signature; 4/4 when there is none
	Tempi  []TempoChange
	Meters []MeterChange // after the first
	Tracks []Track
	EndsAt int // tick of the last end of track
}

// maxEvents bounds what is read from one file.
const maxEvents = 4_000_000

// Encode writes a type 1 file: a conductor track with tempo and meter, then one track for each track
// of f that has a name or notes. Every track ends at f.EndsAt or its last note, whichever is later.
func Encode(f File) []byte {
	be := binary.BigEndian
	var chunks [][]byte
	var conductor []event
	conductor = append(conductor, event{0, -2, meta(0x58, byte(f.Meter.Beats), log2(f.Meter.Unit), 24, 8)})
	for _, m := range f.Meters {
		conductor = append(conductor, event{m.Tick, -2, meta(0x58, byte(m.Meter.Beats), log2(m.Meter.Unit), 24, 8)})
	}
	for _, t := range f.Tempi {
		us := uint32(math.Round(60e6 / t.BPM))
		conductor = append(conductor, event{t.Tick, -1, meta(0x51, byte(us>>16), byte(us>>8), byte(us))})
	}
	chunks = append(chunks, encodeTrack(conductor, f.EndsAt))
	for _, t := range f.Tracks {
		events := []event{{0, -3, meta(0x03, []byte(t.Name)...)}}
		for _, n := range t.Notes {
			ch := byte(n.Channel - 1)
			events = append(events, event{n.Tick, 1, []byte{0x90 | ch, byte(n.Key), byte(n.Velocity)}},
				event{n.Tick + max(1, n.Length), 0, []byte{0x80 | ch, byte(n.Key), 64}})
		}
		chunks = append(chunks, encodeTrack(events, f.EndsAt))
	}
	out := []byte("MThd\x00\x00\x00\x06\x00\x01")
	out = be.AppendUint16(out, uint16(len(chunks)))
	out = be.AppendUint16(out, uint16(f.PPQ))
	for _, c := range chunks {
		out = append(be.AppendUint32(append(out, "MTrk"...), uint32(len(c))), c...)
	}
	return out
}

type event struct {
	tick  int
	order int // among events of one tick: lower first, so that notes end before they start anew
	bytes []byte
}

func encodeTrack(events []event, endsAt int) []byte {
	sort.SliceStable(events, func(i, j int) bool {
		if events[i].tick != events[j].tick {
			return events[i].tick < events[j].tick
		}
		return events[i].order < events[j].order
	})
	var out []byte
	at := 0
	for _, e := range events {
		out = append(AppendVarLen(out, uint32(e.tick-at)), e.bytes...)
		at = e.tick
	}
	return append(AppendVarLen(out, uint32(max(0, endsAt-at))), meta(0x2F)...)
}

func meta(kind byte, data ...byte) []byte {
	return append(AppendVarLen([]byte{0xFF, kind}, uint32(len(data))), data...)
}

func log2(n int) byte {
	var p byte
	for ; n > 1; n >>= 1 {
		p++
	}
	return p
}

// AppendVarLen appends a variable-length quantity, 7 bits a byte, most significant first, at most
// 0x0FFFFFFF (SMF 1.0, "Variable Length Quantity").
func AppendVarLen(out []byte, v uint32) []byte {
	for shift := 21; shift > 0; shift -= 7 {
		if v >= 1<<shift {
			out = append(out, byte(v>>shift)&0x7F|0x80)
		}
	}
	return append(out, byte(v)&0x7F)
}

// reader walks one chunk.
type reader struct {
	b  []byte
	at int
}

func (r *reader) byte() (byte, error) {
	if r.at >= len(r.b) {
		return 0, ErrTruncated
	}
	r.at++
	return r.b[r.at-1], nil
}

func (r *reader) take(n int) ([]byte, error) {
	if n < 0 || n > len(r.b)-r.at {
		return nil, fmt.Errorf("%w: an event asks for %d bytes and %d are left", ErrTruncated, n, len(r.b)-r.at)
	}
	r.at += n
	return r.b[r.at-n : r.at], nil
}

func (r *reader) varLen() (int, error) {
	v := 0
	for range 4 {
		c, err := r.byte()
		if err != nil {
			return 0, err
		}
		v = v<<7 | int(c&0x7F)
		if c < 0x80 {
			return v, nil
		}
	}
	return 0, fmt.Errorf("%w: a length runs over four bytes", ErrCoding)
}

// Decode reads a type 0 or 1 file. Chunks of unknown kind are passed over, as the specification asks;
// bytes after the last track are ignored.
func Decode(data []byte) (_ File, err error) {
	defer damaged.Caught(&err, ErrNotMIDI)
	be := binary.BigEndian
	if len(data) < 14 || string(data[:4]) != "MThd" || be.Uint32(data[4:]) < 6 {
		return File{}, ErrNotMIDI
	}
	kind, tracks, division := be.Uint16(data[8:]), int(be.Uint16(data[10:])), be.Uint16(data[12:])
	if kind > 1 {
		return File{}, fmt.Errorf("%w: it is of type %d; save it as type 0 or 1", ErrCoding, kind)
	}
	if division == 0 || division >= 0x8000 {
		return File{}, fmt.Errorf("%w: it counts in film frames, not in beats; save it with ticks a quarter note", ErrCoding)
	}
	f := File{PPQ: int(division), Meter: music.CommonTime}
	meterSet := false
	for at := 8 + int64(be.Uint32(data[4:])); len(f.Tracks) < tracks; {
		if at+8 > int64(len(data)) {
			return f, fmt.Errorf("%w: %d tracks are promised and %d are there", ErrTruncated, tracks, len(f.Tracks))
		}
		id, size := string(data[at:at+4]), int64(be.Uint32(data[at+4:]))
		if size > int64(len(data))-at-8 {
			return f, fmt.Errorf("%w: track %d promises %d bytes and %d are there", ErrTruncated, len(f.Tracks)+1, size, int64(len(data))-at-8)
		}
		if id == "MTrk" {
			if err := f.readTrack(data[at+8:at+8+size], &meterSet); err != nil {
				return f, fmt.Errorf("track %d: %w", len(f.Tracks)+1, err)
			}
		}
		at += 8 + size
	}
	sort.SliceStable(f.Tempi, func(i, j int) bool { return f.Tempi[i].Tick < f.Tempi[j].Tick })
	return f, nil
}

func (f *File) readTrack(b []byte, meterSet *bool) error {
	r := &reader{b: b}
	t := Track{}
	open := map[[2]int][]int{} // channel, key → indexes of sounding notes
	tick, status, ended := 0, byte(0), false
	for events := 0; r.at < len(b); events++ {
		if events > maxEvents {
			return fmt.Errorf("%w: more than %d events", ErrCoding, maxEvents)
		}
		delta, err := r.varLen()
		if err != nil {
			return err
		}
		tick += delta
		c, err := r.byte()
		if err != nil {
			return err
		}
		if c >= 0x80 {
			status = c
		} else {
			if status < 0x80 || status >= 0xF0 {
				return fmt.Errorf("%w: data without a status at byte %d", ErrCoding, r.at-1)
			}
			r.at-- // running status
		}
		if status == 0xFF || status == 0xF0 || status == 0xF7 {
			ended, err = f.readMeta(r, status, tick, &t, meterSet)
			if err != nil {
				return err
			}
			if ended {
				break
			}
			status = 0 // meta and system events end running status
			continue
		}
		size := 2
		if k := status & 0xF0; k == 0xC0 || k == 0xD0 {
			size = 1
		}
		d, err := r.take(size)
		if err != nil {
			return err
		}
		if d[0] >= 0x80 || size == 2 && d[1] >= 0x80 {
			return fmt.Errorf("%w: a data byte over 127 at byte %d", ErrCoding, r.at-1)
		}
		key := [2]int{int(status&0x0F) + 1, int(d[0])}
		switch kind := status & 0xF0; {
		case kind == 0x90 && d[1] > 0:
			open[key] = append(open[key], len(t.Notes))
			t.Notes = append(t.Notes, Note{Tick: tick, Channel: key[0], Key: key[1], Velocity: int(d[1])})
		case kind == 0x80 || kind == 0x90:
			if on := open[key]; len(on) > 0 {
				t.Notes[on[0]].Length = tick - t.Notes[on[0]].Tick
				open[key] = on[1:]
			}
		}
	}
	if !ended {
		return fmt.Errorf("%w: its end-of-track mark is missing", ErrTruncated)
	}
	f.Tracks = append(f.Tracks, t)
	f.EndsAt = max(f.EndsAt, tick)
	return nil
}

func (f *File) readMeta(r *reader, status byte, tick int, t *Track, meterSet *bool) (ended bool, err error) {
	kind := byte(0)
	if status == 0xFF {
		if kind, err = r.byte(); err != nil {
			return false, err
		}
	}
	n, err := r.varLen()
	if err != nil {
		return false, err
	}
	d, err := r.take(n)
	if err != nil || status != 0xFF {
		return false, err
	}
	switch {
	case kind == 0x2F:
		return true, nil
	case kind == 0x03:
		t.Name = string(d)
	case kind == 0x51 && n == 3:
		if us := int(d[0])<<16 | int(d[1])<<8 | int(d[2]); us > 0 {
			f.Tempi = append(f.Tempi, TempoChange{tick, 60e6 / float64(us)})
		}
	case kind == 0x58 && n >= 2 && d[1] < 8:
		m := music.Meter{Beats: int(d[0]), Unit: 1 << d[1]}
		switch {
		case m.Check() != nil:
		case !*meterSet:
			f.Meter, *meterSet = m, true
		default:
			f.Meters = append(f.Meters, MeterChange{tick, m})
		}
	}
	return false, nil
}
