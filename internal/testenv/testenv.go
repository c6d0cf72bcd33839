// Package testenv builds what tests need: a running application on a private
// database, clips with a number in every frame, a client that speaks the API.
package testenv

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"image/jpeg"
	"io"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/google/uuid"

	"neokinema/core/body"
	"neokinema/internal/account"
	"neokinema/internal/app"
	"neokinema/internal/drafting"
	"neokinema/internal/inference"
	"neokinema/internal/media"
	"neokinema/internal/pglocal"
	"neokinema/internal/store"
	"neokinema/internal/testdb"
)

// House is a running application.
type House struct {
	*app.App
	URL    string
	Dir    string
	Config app.Config
	DB     *pglocal.Server // of [Alone] only
	server *httptest.Server
}

// Open starts an application on a database of its own. Errors end the process of the
// caller by panic: without a house nothing can be tested.
func Open(demoUser string) (h *House, end func()) {
	return Start(func(c *app.Config) { c.DemoUser = demoUser })
}

// Start is [Open] with another configuration. The database is made unless it names one.
func Start(change func(*app.Config)) (h *House, end func()) {
	cfg := app.Config{}
	if change(&cfg); cfg.DatabaseURL != "" {
		return start(change, "", nil)
	}
	url, remove, err := testdb.Migrated(context.Background(), "house", func(url string) error {
		s, err := store.Open(context.Background(), url, slog.New(slog.DiscardHandler))
		if err == nil {
			s.Close()
		}
		return err
	})
	must(err)
	return start(change, url, func() { must(remove()) })
}

// Alone is [Open] on a database server of its own, which can be stopped.
func Alone(demoUser string) (h *House, end func()) {
	db, stop, err := testdb.StartServer(context.Background())
	must(err)
	h, end = start(func(c *app.Config) { c.DemoUser = demoUser }, db.URL, func() { _ = stop() })
	h.DB = db
	return h, end
}

func must(err error) {
	if err != nil {
		panic(err)
	}
}

func start(change func(*app.Config), database string, then func()) (h *House, end func()) {
	dir, err := os.MkdirTemp("", "neokinema-test-")
	must(err)
	h = &House{Dir: dir, Config: app.Config{DatabaseURL: database, MediaURL: "file://" + dir + "/media",
		Address: "127.0.0.1:0", Secret: "a secret for tests, 32 letters long", Data: dir}}
	change(&h.Config)
	h.App, err = app.Start(context.Background(), h.Config, slog.New(slog.DiscardHandler))
	must(err)
	h.server = httptest.NewServer(h.Handler)
	h.URL = h.server.URL
	return h, func() {
		h.server.Close()
		h.App.Close()
		if then != nil {
			then()
		}
		os.RemoveAll(dir)
	}
}

// Door is the same application under an address of its own, which a test can [House.Cut]
// while others go on.
func (h *House) Door(t testing.TB) *House {
	door := *h
	door.server = httptest.NewServer(h.Handler)
	door.URL = door.server.URL
	t.Cleanup(door.server.Close)
	return &door
}

// Cut breaks every connection from now on, as a lost network does; Restart ends
// it.
func (h *House) Cut() {
	h.server.Config.Handler = http.HandlerFunc(func(http.ResponseWriter, *http.Request) { panic(http.ErrAbortHandler) })
}

// Restart serves a new application under the old address.
func (h *House) Restart() { h.server.Config.Handler = h.Handler }

var teams atomic.Int64

// Password is that of every account of tests.
const Password = "long enough words"

// Client is a signed-in coach.
type Client struct {
	T    testing.TB
	HTTP *http.Client
	URL  string
	User store.User
	// Guest is the path of a link ("shared/…/") under which a guest uploads.
	Guest string
	// Address is where it comes from: each signed-in client has its own, or their tries to
	// sign in would count together.
	Address string
}

// elsewhere lets a client come from an address of its own; all of 127.0.0.0/8 is this
// machine.
func (c *Client) elsewhere() {
	n := teams.Add(1)
	c.Address = fmt.Sprintf("127.%d.%d.%d", 1+(n>>15)&0x3f, (n>>7)&0xff, 1+n&0x7f)
	from := &net.Dialer{LocalAddr: &net.TCPAddr{IP: net.ParseIP(c.Address)}}
	c.HTTP.Transport = &http.Transport{DialContext: from.DialContext, MaxIdleConns: 4, IdleConnTimeout: 5 * time.Second}
}

// Coach makes a team of its own and signs its coach in.
func (h *House) Coach(t testing.TB) *Client {
	t.Helper()
	jar, err := cookiejar.New(nil)
	if err != nil {
		t.Fatal(err)
	}
	c := &Client{T: t, HTTP: &http.Client{Jar: jar}, URL: h.URL}
	c.elsewhere()
	n := teams.Add(1)
	mail := fmt.Sprintf("coach%d@club.example", n)
	// Straight to the service: the limit on new teams is tested elsewhere.
	u, err := h.Account.Create(context.Background(), account.NewTeam{Team: fmt.Sprintf("Team %d", n), Name: "Coach", Credentials: account.Credentials{Email: mail, Password: Password}})
	if err != nil {
		t.Fatal(err)
	}
	c.User = u
	c.Do("POST", "/api/sign-in", map[string]string{"email": mail, "password": Password}, http.StatusOK, nil)
	return c
}

// Do sends a request, checks the status and reads the answer into out.
func (c *Client) Do(method, path string, body any, status int, out any) []byte {
	c.T.Helper()
	raw, got := c.Try(method, path, body)
	if got != status {
		c.T.Fatalf("%s %s: status %d, want %d: %.300q", method, path, got, status, raw)
	}
	if out != nil {
		if err := json.Unmarshal(raw, out); err != nil {
			c.T.Fatalf("%s %s: %v in %.200s", method, path, err, raw)
		}
	}
	return raw
}

// Try sends a request and gives what came.
func (c *Client) Try(method, path string, body any) ([]byte, int) {
	c.T.Helper()
	var r io.Reader
	switch b := body.(type) {
	case nil:
	case string:
		r = bytes.NewReader([]byte(b))
	case []byte:
		r = bytes.NewReader(b)
	default:
		raw, err := json.Marshal(b)
		if err != nil {
			c.T.Fatal(err)
		}
		r = bytes.NewReader(raw)
	}
	req, err := http.NewRequest(method, c.URL+path, r)
	if err != nil {
		c.T.Fatal(err)
	}
	if body != nil {
		req.Header.Set("Content-Type", "application/json")
	}
	res, err := c.HTTP.Do(req)
	if err != nil {
		c.T.Fatal(err)
	}
	defer res.Body.Close()
	if res.Header.Get("Content-Type") == "text/event-stream" {
		return nil, res.StatusCode // it has no end
	}
	raw, err := io.ReadAll(res.Body)
	if err != nil {
		c.T.Fatal(err)
	}
	return raw, res.StatusCode
}

// Athlete is a complete athlete to begin from.
func Athlete(name string) store.NewAthlete {
	return store.NewAthlete{Name: name, Born: 2005, Sex: "male", Height: 1.82, Mass: 75, FrontLeg: "left", ThrowingHand: "right", TakeoffLeg: "left"}
}

// Queue is the first page of the queue.
func (c *Client) Queue() []store.QueueItem {
	c.T.Helper()
	var page store.QueuePage
	c.Do("GET", "/api/queue?by=newest", nil, http.StatusOK, &page)
	return page.Lines
}

// Attempt adds an attempt of a fresh athlete.
func (c *Client) Attempt() store.Attempt {
	c.T.Helper()
	var a store.Athlete
	c.Do("POST", "/api/athletes", Athlete("Test Runner"), http.StatusOK, &a)
	return c.AttemptOf(a.ID)
}

// AttemptOf adds an attempt of an athlete.
func (c *Client) AttemptOf(athlete uuid.UUID) (at store.Attempt) {
	c.T.Helper()
	c.Do("POST", "/api/attempts", store.NewAttempt{AthleteID: athlete, Event: "sprint-start", DoneOn: time.Now().Format("2006-01-02"), Condition: "fresh", Setting: "practice"}, http.StatusOK, &at)
	return at
}

// AttemptAt adds an attempt at an event of a fresh athlete with a body.
func (c *Client) AttemptAt(event string, who body.Person) (at store.Attempt) {
	c.T.Helper()
	n := Athlete("Test Athlete")
	n.Height, n.Sex = who.Height, who.Sex
	if who.FrontLeg != "" {
		n.FrontLeg = who.FrontLeg
	}
	var a store.Athlete
	c.Do("POST", "/api/athletes", n, http.StatusOK, &a)
	c.Do("POST", "/api/attempts", store.NewAttempt{AthleteID: a.ID, Event: event, DoneOn: time.Now().Format("2006-01-02"), Condition: "fresh", Setting: "practice"}, http.StatusOK, &at)
	return at
}

// FilesOf lists what lies on the disk under a clip's id, anywhere in the house.
func (h *House) FilesOf(clip uuid.UUID) (out []string) {
	_ = filepath.WalkDir(h.Dir, func(path string, d fs.DirEntry, err error) error {
		if err == nil && !d.IsDir() && strings.Contains(path, clip.String()) {
			out = append(out, path)
		}
		return nil
	})
	return out
}

// Upload sends a file by the tus protocol in pieces and gives the clip's id.
func (c *Client) Upload(attempt uuid.UUID, name string, content []byte, piece int) uuid.UUID {
	c.T.Helper()
	at, status := c.Begin(attempt, name, int64(len(content)))
	if status != http.StatusCreated {
		c.T.Fatalf("upload of %s: status %d", name, status)
	}
	for off := 0; off < len(content); off += piece {
		end := min(off+piece, len(content))
		if status := c.Piece(at, int64(off), bytes.NewReader(content[off:end])); status != http.StatusNoContent {
			c.T.Fatalf("piece at %d: status %d", off, status)
		}
	}
	return uuid.MustParse(filepath.Base(at))
}

// Begin asks for an upload and gives its path.
func (c *Client) Begin(attempt uuid.UUID, name string, size int64) (path string, status int) {
	c.T.Helper()
	req, err := http.NewRequest("POST", c.URL+"/api/"+c.Guest+"uploads/", nil)
	if err != nil {
		c.T.Fatal(err)
	}
	req.Header.Set("Tus-Resumable", "1.0.0")
	req.Header.Set("Upload-Length", fmt.Sprint(size))
	req.Header.Set("Upload-Metadata", "attempt "+b64(attempt.String())+",filename "+b64(name))
	res, err := c.HTTP.Do(req)
	if err != nil {
		c.T.Fatal(err)
	}
	res.Body.Close()
	return filepath.Base(res.Header.Get("Location")), res.StatusCode
}

// Piece sends part of an upload from an offset.
func (c *Client) Piece(upload string, offset int64, body io.Reader) int {
	c.T.Helper()
	req, err := http.NewRequest("PATCH", c.URL+"/api/"+c.Guest+"uploads/"+upload, body)
	if err != nil {
		c.T.Fatal(err)
	}
	req.Header.Set("Tus-Resumable", "1.0.0")
	req.Header.Set("Upload-Offset", fmt.Sprint(offset))
	req.Header.Set("Content-Type", "application/offset+octet-stream")
	res, err := c.HTTP.Do(req)
	if err != nil {
		return 0 // a cut connection
	}
	res.Body.Close()
	return res.StatusCode
}

func b64(s string) string {
	raw, _ := json.Marshal([]byte(s)) // base64 in quotes
	return string(raw[1 : len(raw)-1])
}

// Imported waits until a clip is no longer worked on.
func (c *Client) Imported(id uuid.UUID) (clip store.Clip) {
	c.T.Helper()
	for deadline := time.Now().Add(2 * time.Minute); time.Now().Before(deadline); time.Sleep(30 * time.Millisecond) {
		c.Do("GET", "/api/clips/"+id.String(), nil, http.StatusOK, &clip)
		if clip.State != "waiting" && clip.State != "importing" {
			return clip
		}
	}
	c.T.Fatalf("clip %s is still %s", id, clip.State)
	return clip
}

// Until waits for something that comes by itself.
func Until(t testing.TB, what string, f func() bool) {
	t.Helper()
	within(t, 2*time.Minute, what, f)
}

// within waits for it no longer than so long.
func within(t testing.TB, long time.Duration, what string, f func() bool) {
	t.Helper()
	for deadline := time.Now().Add(long); !f(); time.Sleep(20 * time.Millisecond) {
		if time.Now().After(deadline) {
			t.Fatalf("waited in vain: %s", what)
		}
	}
}

// Numbered draws clips whose every frame carries its number as a row of black
// and white blocks, and reads the number back from any picture of it.
type Numbered struct {
	Width, Height, Frames int
	Rate                  float64
	Codec                 []string // ffmpeg output options
	Grain                 bool     // much that moves in every frame: a file that is long on its way
}

// Drawn is where clips of the simulated athlete are kept, by what is in them: all tests and
// figures on a machine share it.
func Drawn() string {
	dir, err := os.UserCacheDir()
	if err != nil {
		dir = os.TempDir()
	}
	return filepath.Join(dir, "neokinema", "drawn")
}

// small is a clip of a few frames; each is another file, or it would be refused as the
// same.
func (h *House) small() ([]byte, error) {
	path := filepath.Join(h.Dir, "small.mp4")
	raw, err := os.ReadFile(path)
	if err != nil {
		if err := (Numbered{Width: 320, Height: 180, Frames: 12, Rate: 30}).Make(path); err != nil {
			return nil, err
		}
		raw, err = os.ReadFile(path)
	}
	return append(raw, byte(teams.Load())), err
}

const (
	bits = 12
	// Block is the size of one bit, px, in two rows at the top left.
	Block = 16
	block = Block
)

// Make writes the clip; one that was drawn before is taken from [Drawn].
func (n Numbered) Make(path string) error {
	kept := filepath.Join(Drawn(), fmt.Sprintf("numbered-%x%s", sha256.Sum256(fmt.Appendf(nil, "1 %+v", n)), filepath.Ext(path)))
	raw, err := os.ReadFile(kept)
	if err != nil {
		if err := os.MkdirAll(Drawn(), 0o755); err != nil {
			return err
		}
		// Several tests may draw it at once; each has a place of its own until it is whole.
		dir, err := os.MkdirTemp(Drawn(), "drawing-")
		if err != nil {
			return err
		}
		defer os.RemoveAll(dir)
		begun := filepath.Join(dir, filepath.Base(kept))
		if err := n.draw(begun); err != nil {
			return err
		}
		if raw, err = os.ReadFile(begun); err != nil {
			return err
		}
		if err := os.Rename(begun, kept); err != nil {
			return err
		}
	}
	return os.WriteFile(path, raw, 0o644)
}

func (n Numbered) draw(path string) error {
	return media.Encode(context.Background(), media.RawVideo{Width: n.Width, Height: n.Height, Rate: n.Rate, Codec: n.Codec}, path, func(write func([]byte) error) error {
		pic := make([]byte, 3*n.Width*n.Height)
		for f := range n.Frames {
			for y := range n.Height {
				for x := range n.Width {
					v := byte(90 + (x+y+3*f)%60)
					if n.Grain {
						v = byte(90 + ((x/2+1)*(y/2+7)*(f+3)*2654435761>>16)%60)
					}
					if bit := x / block; y < 2*block && bit < bits {
						v = 16
						if f>>bit&1 == 1 {
							v = 235
						}
					}
					i := 3 * (y*n.Width + x)
					pic[i], pic[i+1], pic[i+2] = v, v, v
				}
			}
			if err := write(pic); err != nil {
				return err
			}
		}
		return nil
	})
}

// Read gets the frame number out of a picture by its luminance; k is the size
// of the picture over that of the clip.
func Read(luma func(x, y int) int, k float64) int {
	n := 0
	for bit := range bits {
		if luma(int(k*(float64(bit)+0.5)*block), int(k*block)) > 128 {
			n |= 1 << bit
		}
	}
	return n
}

// ReadJPEGAt gets the frame number out of a JPEG whose blocks lie elsewhere; at
// gets the picture's size.
func ReadJPEGAt(raw []byte, at func(bit, width, height int) (x, y float64)) (int, error) {
	img, err := jpeg.Decode(bytes.NewReader(raw))
	if err != nil {
		return 0, err
	}
	n := 0
	for bit := range bits {
		x, y := at(bit, img.Bounds().Dx(), img.Bounds().Dy())
		if r, _, _, _ := img.At(int(x), int(y)).RGBA(); r>>8 > 128 {
			n |= 1 << bit
		}
	}
	return n, nil
}

// ReadJPEG gets the frame number out of a JPEG.
func ReadJPEG(raw []byte, width int) (int, error) {
	img, err := jpeg.Decode(bytes.NewReader(raw))
	if err != nil {
		return 0, err
	}
	return Read(func(x, y int) int { r, _, _, _ := img.At(x, y).RGBA(); return int(r >> 8) }, float64(img.Bounds().Dx())/float64(width)), nil
}

// Kinds of clips on which exact frames are checked. Rotation and variable rate
// are added by a second pass.
func Kinds() map[string]func(path string) (Numbered, error) {
	h264 := func(extra ...string) []string {
		return append([]string{"-c:v", "libx264", "-preset", "veryfast", "-crf", "20", "-pix_fmt", "yuv420p"}, extra...)
	}
	base := Numbered{Width: 640, Height: 360, Frames: 150, Rate: 30}
	plain := func(codec []string) func(string) (Numbered, error) {
		return func(path string) (Numbered, error) {
			n := base
			n.Codec = codec
			return n, n.Make(path)
		}
	}
	again := func(args ...string) func(string) (Numbered, error) {
		return func(path string) (Numbered, error) {
			n := base
			n.Codec = h264("-bf", "3", "-g", "60")
			raw := path + ".raw.mp4"
			if err := n.Make(raw); err != nil {
				return n, err
			}
			defer os.Remove(raw)
			return n, media.Remake(context.Background(), raw, path, args...)
		}
	}
	return map[string]func(string) (Numbered, error){
		"no-b-frames":   plain(h264("-bf", "0", "-g", "30")),
		"b-frames":      plain(h264("-bf", "4", "-g", "250", "-x264-params", "b-pyramid=normal")),
		"hevc":          plain([]string{"-c:v", "libx265", "-preset", "ultrafast", "-crf", "22", "-pix_fmt", "yuv420p", "-tag:v", "hvc1", "-x265-params", "log-level=error"}),
		"variable-rate": again("-vf", "setpts='(N+0.4*sin(N))/30/TB'", "-fps_mode", "vfr", "-enc_time_base", "1:90000", "-video_track_timescale", "90000", "-c:v", "libx264", "-bf", "3", "-crf", "20"),
		"rotated":       again("-c", "copy", "-metadata:s:v", "rotate=90"),
	}
}

// root is the folder of the project.
func root() string {
	dir, err := os.Getwd()
	must(err)
	for dir != "/" {
		if _, err := os.Stat(filepath.Join(dir, "go.mod")); err == nil {
			break
		}
		dir = filepath.Dir(dir)
	}
	return dir
}

// Library is what runs pose networks, as ./neo has put it beside the program.
func Library() string { return filepath.Join(root(), "build", inference.Library) }

// Quiet logs nothing.
func Quiet() *slog.Logger { return slog.New(slog.DiscardHandler) }

// DraftOver waits until the server's draft of a clip has come to an end, behind others that were
// sent before it.
func (c *Client) DraftOver(clip uuid.UUID) (d drafting.State) {
	c.T.Helper()
	within(c.T, 15*time.Minute, "the draft is over", func() bool {
		c.Do("GET", "/api/clips/"+clip.String()+"/draft", nil, 200, &d)
		return d.Draft.State != "waiting" && d.Draft.State != "drafting"
	})
	return d
}
