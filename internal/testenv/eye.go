package testenv

// AnswerExercise answers the exercise for the eye that is shown, somehow, and waits for what is true.
func (s *Screen) AnswerExercise() {
	s.T.Helper()
	s.See("[data-testid=exercise][data-answered=false]")
	switch *s.See("[data-testid=exercise]").MustAttribute("data-kind") {
	case "moment":
		s.See("[data-testid=this-one]").MustClick()
	case "angle":
		s.See("[data-testid=say]").MustClick()
	default:
		s.See("[data-choice]").MustClick()
	}
	s.See("[data-testid=told]")
}
