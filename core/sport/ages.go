package sport

// Ages in the year of the attempt. The usual age of majority.
const (
	// Adult is the age from which nobody's consent but one's own is needed.
	Adult = 18
	// Child is the age under which short words come first. Common practice, no source.
	Child = 15
)

// Minor tells whether somebody born in a year counts as not of age in another: only the
// year is known, so that the birthday may still be to come.
func Minor(born, year int) bool { return year-born <= Adult }
