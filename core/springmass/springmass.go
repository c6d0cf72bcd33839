// Package springmass gives the forces and stiffnesses of running from its times.
//
// Source: Morin, Dalleau, Kyröläinen, Jeannin and Belli 2005, A simple method
// for measuring stiffness during running, J. Appl. Biomech. 21:167. The vertical
// force of a contact is taken as half a sine.
package springmass

import (
	"errors"
	"math"

	"neokinema/core/body"
)

// LegShare is the leg of the source over the standing height, from the trochanter to the ground
// (Winter 1979, as cited there); legs of the same height scatter by some [LegSpread] of that.
// The spread is assumed.
const (
	LegShare  = 0.53
	LegSpread = 0.03
)

// Times are what a stopwatch tells of one step, s.
type Times struct{ Contact, Flight float64 }

// Check refuses what no runner does.
func (t Times) Check() error {
	if !(t.Contact > 0.02 && t.Contact < 1) || !(t.Flight >= 0 && t.Flight < 1) {
		return errors.New("a running step has a contact of 0.02 to 1 s and a flight of up to 1 s")
	}
	return nil
}

// PeakForce is the largest vertical force over the body's weight:
//
//	Fmax / (m g) = pi/2 (tf/tc + 1)
func (t Times) PeakForce() float64 { return math.Pi / 2 * (t.Flight/t.Contact + 1) }

// Dip is how far the centre of mass sinks in a contact, m:
//
//	dy = Fmax tc^2 / (m pi^2) - g tc^2 / 8     (downwards positive)
func (t Times) Dip() float64 {
	tc2 := t.Contact * t.Contact
	return t.PeakForce()*body.Gravity*tc2/(math.Pi*math.Pi) - body.Gravity*tc2/8
}

// Shortening is how much a leg of a length (m) shortens in a contact at a running
// speed (m/s), m:
//
//	dL = L - sqrt(L^2 - (v tc / 2)^2) + dy
//
// An error tells that the leg is too short for the way passed on the ground.
func (t Times) Shortening(leg, speed float64) (float64, error) {
	half := speed * t.Contact / 2
	if !(leg > half) {
		return 0, errors.New("the way during the contact is longer than the leg can pass: check speed, times and height")
	}
	return leg - math.Sqrt(leg*leg-half*half) + t.Dip(), nil
}

// VerticalStiffness is Fmax over the dip, N/m, for a body mass in kg.
func (t Times) VerticalStiffness(mass float64) float64 {
	return t.PeakForce() * mass * body.Gravity / t.Dip()
}

// LegStiffness is Fmax over the leg's shortening, N/m.
func (t Times) LegStiffness(mass, leg, speed float64) (float64, error) {
	dl, err := t.Shortening(leg, speed)
	if err != nil {
		return 0, err
	}
	return t.PeakForce() * mass * body.Gravity / dl, nil
}

// Duty is the share of a step that its contact takes, 0 to 1.
func (t Times) Duty() float64 { return t.Contact / (t.Contact + t.Flight) }

// Cadence is steps per minute.
func (t Times) Cadence() float64 { return 60 / (t.Contact + t.Flight) }
