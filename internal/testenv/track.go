package testenv

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/http"

	"github.com/google/uuid"

	"neokinema/core/trackside"
	"neokinema/internal/planning"
	"neokinema/internal/store"
)

// JoinSession lets phones that did not see each other write a session by chance down, of today, and
// joins what they wrote with the team's in pieces, in any order and some of it twice. It gives what
// was written and is found nowhere: neither in the team's attempts nor told as a conflict.
func JoinSession(c *Client, r *rand.Rand, tries, athletes, phones int) (lost []string, err error) {
	notes, truth := trackside.Session(r, tries, athletes, phones)
	ids := map[string]string{}
	id := func(name string) string {
		if ids[name] == "" {
			ids[name] = uuid.NewString()
		}
		return ids[name]
	}
	for k := range athletes {
		var a store.Athlete
		c.Do("POST", "/api/athletes", Athlete(fmt.Sprintf("Athlete %d", k)), http.StatusOK, &a)
		ids[fmt.Sprintf("athlete-%d", k)] = a.ID.String()
	}
	var track planning.Track
	c.Do("GET", "/api/track", nil, http.StatusOK, &track)
	by := map[string][]trackside.Note{}
	for i, n := range notes {
		n.ID, n.Try, n.Athlete, n.Day = id(n.ID), id(n.Try), id(n.Athlete), track.Day.String()
		notes[i] = n
		by[n.Phone] = append(by[n.Phone], n)
	}
	// Each phone sends what it has in order, in pieces, some of them twice; whose turn it is comes by
	// chance. What is refused waits and is sent again, as a phone does.
	for left := len(notes); left > 0; {
		left = 0
		for phone, list := range by {
			if len(list) == 0 {
				continue
			}
			piece := list[:min(len(list), 1+r.IntN(12))]
			for range 1 + r.IntN(2) {
				var got store.JoinedNotes
				c.Do("POST", "/api/track/notes", map[string]any{"notes": piece}, http.StatusOK, &got)
				for _, n := range got.Refused {
					// The other phone has not told of this try yet.
					by[phone] = append(by[phone], n.Note)
				}
			}
			by[phone] = by[phone][len(piece):]
			left += len(by[phone])
		}
	}
	c.Do("GET", "/api/track", nil, http.StatusOK, &track)
	named := map[string]map[trackside.Field][]string{}
	for t, fields := range truth {
		named[ids[t]] = fields
	}
	lost = trackside.Lost(track.Joined, named)
	// What the notes tell is what the attempts say.
	for _, t := range track.Joined.Tries {
		u, err := uuid.Parse(t.ID)
		if err != nil {
			return nil, err
		}
		a, ok := c.Now(u)
		if !ok {
			lost = append(lost, t.ID+" is no attempt")
		} else if a.Mark != t.Says[trackside.Mark] || a.Foul != t.Says[trackside.Foul] || a.Kept != t.Says[trackside.Kept] {
			lost = append(lost, fmt.Sprintf("%s says %q %q %q, noted %v", t.ID, a.Mark, a.Foul, a.Kept, t.Says))
		}
	}
	return lost, nil
}

// Now is an attempt as it is stored; false when it is not there.
func (c *Client) Now(id uuid.UUID) (store.Attempt, bool) {
	c.T.Helper()
	var sheet struct {
		Attempt store.Attempt `json:"attempt"`
	}
	raw, status := c.Try("GET", "/api/attempts/"+id.String()+"/workspace", nil)
	if status != http.StatusOK {
		return sheet.Attempt, false
	}
	if err := json.Unmarshal(raw, &sheet); err != nil {
		c.T.Fatal(err)
	}
	return sheet.Attempt, true
}
