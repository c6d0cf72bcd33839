package season

import "neokinema/core/sport"

// parts orders a session: slow before fast, so that the change is there before effort comes. Common
// practice, no source.
func parts(s Session) []Part {
	slow := s.Tries - s.Full
	switch kind := sport.Of(s.Event).Change; {
	case s.Kind == Test:
		return []Part{{"Warm up as for a competition", 0}, {"Full, all measured", s.Tries}}
	case kind == sport.Throw:
		return full([]Part{{"Feet fixed", slow / 2}, {"Slow, the feet change", slow - slow/2}, {"Full", s.Full}})
	case kind == sport.Jump:
		return full([]Part{{"Walking and from three steps", slow / 2}, {"Short run-up", slow - slow/2}, {"Full run-up", s.Full}})
	case kind == sport.Start:
		return full([]Part{{"Three steps, falling starts", slow / 2}, {"Out of the blocks, unhurried", slow - slow/2}, {"Full, with a command", s.Full}})
	case kind == sport.Running:
		return full([]Part{{"The drill in the warm-up", 0}, {"Running: think of it for half a minute each km, then let go", s.Tries}})
	}
	return []Part{}
}

// full drops the parts in which nothing is done.
func full(list []Part) (out []Part) {
	for i, p := range list {
		if p.Tries > 0 || i == 0 && len(list) == 2 {
			out = append(out, p)
		}
	}
	return out
}
