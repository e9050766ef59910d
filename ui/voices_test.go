package ui

import "testing"

// What is struck is brought first, then what sounds soonest, then the rest of the kit in its order; six at once, each once; one that cannot be
// brought holds up none of the others.
func TestVoicesComeInTheOrderInWhichTheySound(t *testing.T) {
	cue := func(voice string, at float64) any { return map[string]any{"voice": voice, "at": at} }
	kit := []string{"a", "b", "c", "d", "e", "f", "g", "h", "i", "j", "k"}
	cues := []any{cue("k", 2), cue("h", 0.5), cue("b", 0.1), cue("k", 0.25)}
	order := []string{"a", "b", "c", "d", "e", "f", "j", "k", "h", "g", "i"}
	run(t, []replay{
		{Call: "voiceOrder", Args: []any{kit, cues, "j", "none"}, Want: map[string]any{"order": order, "most": 6, "ended": "all"}},
		{Call: "voiceOrder", Args: []any{kit, cues, "j", "g"}, Want: map[string]any{"order": order, "most": 6, "ended": "one failed"}},
	})
}
