package squad

import (
	"math"

	"gonum.org/v1/gonum/stat"
	"gonum.org/v1/gonum/stat/distuv"

	"neokinema/core/body"
	"neokinema/core/model"
	"neokinema/core/sport"
	"neokinema/core/uncertainty"
)

// Level is how far somebody is at an event.
type Level string

// Levels. Common practice, no source: years of doing an event tell more than age once somebody is grown.
const (
	Child    Level = "child"
	Beginner Level = "beginner"
	Youth    Level = "youth"
	Grown    Level = "grown"
)

// beginner are the years in which somebody counts as new to an event.
const beginner = 2

// LevelOf tells the level of an age and of years at an event, [model.Unknown] when nobody has said.
func LevelOf(age, years int) Level {
	switch {
	case age < sport.Child:
		return Child
	case years != model.Unknown && years < beginner:
		return Beginner
	case age < sport.Adult+2:
		return Youth
	}
	return Grown
}

// Measured is an athlete's newest value of a measure, and how it scatters over the own attempts.
type Measured struct {
	ID     string
	Sex    body.Sex
	Level  Level
	Height float64 // m
	Value  uncertainty.Estimate
	Own    float64 // standard deviation between own attempts; 0 when not known
}

// build is by how much, m, heights of one build differ at most. Common practice, no source.
const build = 0.08

// fewest are the others from whom a reference is told.
const fewest = 3

// Reference is what those of one's own sex, level and build do.
type Reference struct {
	N       int     `json:"n" doc:"others"`
	Mean    float64 `json:"mean"`
	Lo      float64 `json:"lo" doc:"of the range in which one more of them is expected, 95 %"`
	Hi      float64 `json:"hi"`
	Differs bool    `json:"differs" doc:"the value lies outside of that range by more than its doubt and the own scatter"`
}

// Among holds an athlete against those alike; false where there are too few.
func Among(who Measured, all []Measured) (Reference, bool) {
	var values []float64
	for _, m := range all {
		if m.ID != who.ID && m.Sex == who.Sex && m.Level == who.Level && math.Abs(m.Height-who.Height) <= build+1e-9 {
			values = append(values, m.Value.Value)
		}
	}
	n := float64(len(values))
	out := Reference{N: len(values)}
	if len(values) < fewest {
		return out, false
	}
	mean, sd := stat.MeanStdDev(values, nil)
	half := distuv.StudentsT{Sigma: 1, Nu: n - 1}.Quantile(0.975) * sd * math.Sqrt(1+1/n)
	out.Mean, out.Lo, out.Hi = mean, mean-half, mean+half
	slack := math.Hypot(who.Value.Half95, uncertainty.Z95*who.Own)
	out.Differs = who.Value.Value < out.Lo-slack || who.Value.Value > out.Hi+slack
	return out, true
}
