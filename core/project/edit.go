package project

import (
	"fmt"
	"reflect"

	"hexachord/core/kit"
)

// Edit is a change of a project, as a value: what is asked for, not what comes of it. Exactly one of its parts is given.
type Edit struct {
	Settings      *SettingsEdit  `json:"settings,omitempty"`
	Map           *MapEdit       `json:"map,omitempty"`
	AddLane       *AddLane       `json:"addLane,omitempty"`
	Carry         *CarryRequest  `json:"carry,omitempty"`
	Kit           *KitEdit       `json:"kit,omitempty"`
	LayOut        *LayOut        `json:"layOut,omitempty"`
	MovePad       *MovePad       `json:"movePad,omitempty"`
	SpreadPad     *SpreadPad     `json:"spreadPad,omitempty"`
	Pattern       *PatternEdit   `json:"pattern,omitempty"`
	AddPattern    *AddPattern    `json:"addPattern,omitempty"`
	RemovePattern *RemovePattern `json:"removePattern,omitempty"`
	WriteFeel     *WriteFeel     `json:"writeFeel,omitempty"`
	TakeReady     *TakeReady     `json:"takeReady,omitempty"`
	AddGroove     *AddGroove     `json:"addGroove,omitempty"`
	PutGroove     *PutGroove     `json:"putGroove,omitempty"`
	RemoveGroove  *RemoveGroove  `json:"removeGroove,omitempty"`
	Heard         *HeardEdit     `json:"heard,omitempty"`
	Regrid        *Regrid        `json:"regrid,omitempty"`
	Flip          *Flip          `json:"flip,omitempty"`
	Keep          *Keep          `json:"keep,omitempty"`
	RecordPass    *RecordPass    `json:"recordPass,omitempty"`
	Pass          *PassEdit      `json:"pass,omitempty"`
	Song          *SongEdit      `json:"song,omitempty"`
	Block         *BlockEdit     `json:"block,omitempty"`
	Section       *SectionEdit   `json:"section,omitempty"`
	AddPart       *AddPart       `json:"addPart,omitempty"`
	Part          *PartEdit      `json:"part,omitempty"`
	LayHeard      *LayHeard      `json:"layHeard,omitempty"`
	LayShape      *LayShape      `json:"layShape,omitempty"`
	Perform       *Perform       `json:"perform,omitempty"`
	Mix           *MixEdit       `json:"mix,omitempty"`
}

// Step is one way to change a project.
type Step interface {
	// Apply does it and says what the history calls it.
	Apply(d *Draft) (label string, err error)
	// Scope is what it reads and writes.
	Scope(p Project) Scope
}

// step finds the part that is given.
func (e Edit) step() (Step, error) {
	var found Step
	v := reflect.ValueOf(e)
	for i := range v.NumField() {
		if f := v.Field(i); !f.IsNil() {
			if found != nil {
				return nil, fmt.Errorf("%w: an edit changes one thing; send several edits", ErrInput)
			}
			found = f.Interface().(Step)
		}
	}
	if found == nil {
		return nil, fmt.Errorf("%w: the edit does not say what is to be changed", ErrInput)
	}
	return found, nil
}

// labelled is what the history calls an edit: the words given, or its own.
func labelled(given, own string) string {
	if given != "" {
		return given
	}
	return own
}

// Apply does the edit on a draft and says what the history calls it.
func (e Edit) Apply(d *Draft) (label string, err error) {
	s, err := e.step()
	if err != nil {
		return "", err
	}
	return s.Apply(d)
}

// Scope is what the edit reads and writes of a project.
func (e Edit) Scope(p Project) Scope {
	s, err := e.step()
	if err != nil {
		return Scope{All: true}
	}
	return s.Scope(p)
}

// Result is what came of an edit beside the documents it changed.
type Result struct {
	ID        string   `json:"id,omitempty"`        // of the document it added
	Kept      *Kept    `json:"kept,omitempty"`      // of keeping a recording as a pattern
	Brought   *Brought `json:"brought,omitempty"`   // of bringing patterns
	Cut       *CutKit  `json:"cut,omitempty"`       // of cutting a recording to a kit
	Hits      int      `json:"hits,omitempty"`      // of a MIDI file
	BPM       float64  `json:"bpm,omitempty"`       // a MIDI file's first tempo
	TookTempo bool     `json:"tookTempo,omitempty"` // and the project plays at it from then on
	Patterns  int      `json:"patterns,omitempty"`  // a MIDI file became
	// Doubled are notes on a note and tick that already had one; the harder stays.
	Doubled int      `json:"doubled,omitempty"`
	NoLane  []NoLane `json:"noLane,omitempty"` // notes no lane of the map has; they are kept in the pattern
}

// NoLane counts the hits on one note that no lane has.
type NoLane struct {
	Note int    `json:"note"`
	Name string `json:"name"` // General MIDI name, "" when it has none
	Hits int    `json:"hits"`
}

// KitEdit changes the kit.
type KitEdit struct{ kit.Edit }
