package store

import (
	"encoding/json"
	"fmt"

	"gorm.io/gorm"

	"hexachord/core/kit"
)

// oneSampleKit is how kits were kept when a layer had one sample.
type oneSampleKit struct {
	Name string `json:"name"`
	Pads []struct {
		kit.Pad
		ReleaseMS float64 `json:"releaseMS"`
		Layers    []struct {
			Lo         int     `json:"lo"`
			Hi         int     `json:"hi"`
			Sample     string  `json:"sample"`
			Source     string  `json:"source"`
			StartFrame int     `json:"startFrame"`
			EndFrame   int     `json:"endFrame"`
			LevelDB    float64 `json:"levelDB"`
			Semitones  float64 `json:"semitones"`
		} `json:"layers"`
	} `json:"pads"`
}

// stackKits gives the layers of kits kept in documents and in the history stacked sounds with takes.
func stackKits(db *gorm.DB) error {
	var docs []documentRow
	if err := db.Where("kind = ?", kindKit).Find(&docs).Error; err != nil {
		return err
	}
	for _, d := range docs {
		body, err := stackKit(d.Body)
		if err != nil {
			return fmt.Errorf("the kit of project %s: %w", d.ProjectID, err)
		}
		d.Body = body
		if err := db.Omit("Project").Save(&d).Error; err != nil {
			return err
		}
	}
	var rows []historyRow
	if err := db.Where("cast(changes as text) like ?", `%"kind":"kit"%`).Find(&rows).Error; err != nil {
		return err
	}
	for _, h := range rows {
		var changes []change
		if err := json.Unmarshal(h.Changes, &changes); err != nil {
			return err
		}
		for i := range changes {
			if changes[i].Kind != kindKit {
				continue
			}
			for _, body := range []*json.RawMessage{&changes[i].Before, &changes[i].After} {
				if *body == nil {
					continue
				}
				next, err := stackKit(*body)
				if err != nil {
					return fmt.Errorf("edit %d of project %s: %w", h.Number, h.ProjectID, err)
				}
				*body = next
			}
		}
		text, err := json.Marshal(changes)
		if err != nil {
			return err
		}
		h.Changes = text
		if err := db.Omit("Project").Save(&h).Error; err != nil {
			return err
		}
	}
	return nil
}

func stackKit(body []byte) ([]byte, error) {
	var old oneSampleKit
	if err := json.Unmarshal(body, &old); err != nil {
		return nil, err
	}
	k := kit.Kit{Name: old.Name, Pads: []kit.Pad{}}
	for _, p := range old.Pads {
		pad := p.Pad
		pad.Layers = []kit.Layer{}
		for _, l := range p.Layers {
			shape := kit.Whole()
			shape.StartFrame, shape.EndFrame, shape.ReleaseMS = l.StartFrame, l.EndFrame, p.ReleaseMS
			layer := kit.NewLayer(l.Lo, l.Hi, kit.Take{Sample: l.Sample, Source: l.Source, Shape: shape})
			layer.Sounds[0].LevelDB, layer.Sounds[0].Semitones = l.LevelDB, l.Semitones
			pad.Layers = append(pad.Layers, layer)
		}
		k.Pads = append(k.Pads, pad)
	}
	return json.Marshal(k)
}
