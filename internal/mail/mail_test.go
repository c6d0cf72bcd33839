package mail

import (
	"bufio"
	"context"
	"fmt"
	"net"
	"strings"
	"testing"
)

// box is a mail server that takes one letter.
func box(t *testing.T) (address string, got <-chan string) {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	out := make(chan string, 1)
	go func() {
		defer l.Close()
		c, err := l.Accept()
		if err != nil {
			return
		}
		defer c.Close()
		in := bufio.NewReader(c)
		say := func(s string) { fmt.Fprintf(c, "%s\r\n", s) }
		say("220 box")
		var all strings.Builder
		for {
			line, err := in.ReadString('\n')
			if err != nil {
				break
			}
			all.WriteString(line)
			switch word, _, _ := strings.Cut(strings.TrimSpace(line), " "); strings.ToUpper(word) {
			case "EHLO", "HELO", "MAIL", "RCPT", "NOOP", "RSET":
				say("250 ok")
			case "DATA":
				say("354 go on")
				for {
					line, err := in.ReadString('\n')
					if err != nil || line == ".\r\n" {
						break
					}
					all.WriteString(line)
				}
				say("250 taken")
			case "QUIT":
				say("221 bye")
				out <- all.String()
				return
			}
		}
		out <- all.String()
	}()
	return l.Addr().String(), out
}

func TestALetterIsSent(t *testing.T) {
	address, got := box(t)
	s, err := SMTP("smtp://" + address + "?tls=none&from=club@example.org")
	if err != nil {
		t.Fatal(err)
	}
	if err := s.Send(context.Background(), Letter{"coach@example.org", "Tür – 新しい", "Open this:\n\nhttps://clips.example.org/reset/abc\n"}); err != nil {
		t.Fatal(err)
	}
	text := <-got
	for _, want := range []string{"MAIL FROM:<club@example.org>", "RCPT TO:<coach@example.org>", "Subject: =?UTF-8?", "https://clips.example.org/reset/abc"} {
		if !strings.Contains(text, want) {
			t.Errorf("%q is not in\n%s", want, text)
		}
	}
	// A name cannot bring headers of its own.
	if err := s.Send(context.Background(), Letter{"x@example.org\r\nBcc: y@example.org", "x", "x"}); err == nil {
		t.Error("an address with a line of its own")
	}
}

func TestWhatIsNoMailServer(t *testing.T) {
	for _, bad := range []string{"", "http://x?from=a@b", "smtp://host", "smtp://?from=a@b", "smtp://host:none?from=a@b"} {
		if _, err := SMTP(bad); err == nil {
			t.Errorf("%q was taken", bad)
		}
	}
	if _, err := SMTP("smtps://u:p@host?from=a@b"); err != nil {
		t.Error(err)
	}
}
