package pattern

// Clear removes every hit that starts in bars FromBar ≤ bar < ToBar (from 0), on Notes or on all lanes.
type Clear struct {
	FromBar int   `json:"fromBar,omitempty" minimum:"0" maximum:"64"`
	ToBar   int   `json:"toBar,omitempty" minimum:"0" maximum:"64"`
	Notes   []int `json:"notes,omitempty" maxItems:"128"`
}

func (e *Clear) do(p Pattern) (Pattern, error) {
	bar := p.Meter.BarTicks()
	from, to := min(max(0, e.FromBar), p.Bars)*bar, min(max(0, e.ToBar), p.Bars)*bar
	only := noteSet(e.Notes)
	kept := make([]Hit, 0, len(p.Hits))
	for _, h := range p.Hits {
		if at := max(0, h.Tick); at >= from && at < to && only(h.Note) { // what leads into the first bar belongs to it
			continue
		}
		kept = append(kept, h)
	}
	p.Hits = kept
	return p, nil
}

func (e *Clear) scope() Scope { return About{Notes: e.Notes}.scope() }

func (e *Clear) describe(Pattern, func(int) string) string { return "" }
