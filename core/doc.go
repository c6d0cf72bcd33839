// Package core is the root of Neokinema's computation: time, angles, doubt,
// scale, contacts, technique models. The packages below it import the standard
// library and gonum only, hold no state and do no I/O, so that the same code
// answers in the server and, as WebAssembly, under the coach's hand.
//
// Conventions shared by all packages: image points are pixels of the upright
// picture with x to the right and y down; angles are degrees; times are
// seconds of true time; lengths are metres unless a name says otherwise.
package core
