package testenv

import (
	"bytes"
	"context"
	"encoding/binary"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"strings"

	"neokinema/internal/media"
)

// Hostile makes files that no camera makes: cut, flipped, lying about themselves, lists
// that would read the file foreign, and such that want all memory. By name; the same each
// time.
func Hostile(dir, foreign string) (map[string][]byte, error) {
	out := map[string][]byte{}
	ctx := context.Background()
	base := filepath.Join(dir, "base.mp4")
	if err := (Numbered{Width: 192, Height: 108, Frames: 40, Rate: 30}).Make(base); err != nil {
		return nil, err
	}
	kinds := map[string][]byte{}
	for name, options := range map[string][]string{
		"a.mp4": {"-c", "copy"}, "b.mov": {"-c:v", "mpeg4", "-q:v", "5"}, "c.webm": {"-c:v", "libvpx", "-b:v", "300k", "-deadline", "realtime"}, "d.mkv": {"-c:v", "libx264", "-preset", "ultrafast"},
		"e.avi": {"-c:v", "mjpeg", "-q:v", "6"}, "f.ts": {"-c:v", "libx264", "-preset", "ultrafast", "-f", "mpegts"}, "g.mp4": {"-c:v", "libx265", "-preset", "ultrafast", "-x265-params", "log-level=error"},
	} {
		path := filepath.Join(dir, name)
		if err := media.Remake(ctx, base, path, options...); err != nil {
			return nil, err
		}
		raw, err := os.ReadFile(path)
		if err != nil {
			return nil, err
		}
		kinds[name] = raw
		out["own "+name] = raw
	}
	dice := rand.New(rand.NewPCG(2026, 15))
	for name, raw := range kinds {
		for _, share := range []int{1, 5, 12, 30, 50, 75, 90, 99} {
			out[fmt.Sprintf("%s cut at %d %%", name, share)] = raw[:len(raw)*share/100]
		}
		for n := range 12 {
			flipped := bytes.Clone(raw)
			for range 1 << (n % 7) {
				// Mostly in the headers, where a bit means most.
				at := dice.IntN(min(len(raw), 4000))
				if n%3 == 0 {
					at = dice.IntN(len(raw))
				}
				flipped[at] ^= 1 << dice.IntN(8)
			}
			out[fmt.Sprintf("%s flipped %d", name, n)] = flipped
		}
		for n := range 4 {
			holed := bytes.Clone(raw)
			at := dice.IntN(len(raw) - 200)
			clear(holed[at : at+100+n*25])
			out[fmt.Sprintf("%s holed %d", name, n)] = holed
		}
		out[name+" twice"] = append(bytes.Clone(raw), raw...)
		out[name+" with a list behind it"] = append(bytes.Clone(raw), "\n#EXTM3U\n#EXTINF:1,\n"+foreign+"\n"...)
	}
	// Boxes of MP4 that lie.
	lie := func(name, box string, offset int, value []byte) {
		raw := bytes.Clone(kinds["a.mp4"])
		if at := bytes.Index(raw, []byte(box)); at >= 0 && at+offset+len(value) <= len(raw) {
			copy(raw[at+offset:], value)
			out["lie: "+name] = raw
		}
	}
	most := []byte{0xff, 0xff, 0xff, 0xff}
	for name, q := range map[string]struct {
		box   string
		at    int
		value []byte
	}{
		"timescale 0": {"mdhd", 16, make([]byte, 4)}, "timescale without end": {"mdhd", 16, most}, "movie's timescale 0": {"mvhd", 16, make([]byte, 4)},
		"endless duration": {"mdhd", 20, most}, "samples without end": {"stsz", 12, most}, "one size for all": {"stsz", 8, most}, "chunks without end": {"stco", 8, most},
		"times without end": {"stts", 8, most}, "a sample that lasts for ever": {"stts", 16, most}, "no samples": {"stsz", 12, make([]byte, 4)}, "runs without end": {"stsc", 8, most},
		"width without end": {"tkhd", 80, most}, "picture without end": {"avc1", 28, []byte{0x7f, 0xff, 0x7f, 0xff}}, "no codec": {"avc1", 0, []byte("zzzz")}, "a text codec": {"avc1", 0, []byte("tx3g")},
		"raw pictures": {"avc1", 0, []byte("raw ")}, "data elsewhere": {"url ", 4, make([]byte, 4)}, "a box in itself": {"moov", -4, []byte{0, 0, 0, 1}}, "a box of nothing": {"trak", -4, make([]byte, 4)},
	} {
		lie(name, q.box, q.at, q.value)
	}
	out["lie: data in the foreign file"] = elsewhere(kinds["a.mp4"], foreign)
	// What a reader of lists would open.
	url := "file://" + foreign
	for name, text := range map[string]string{
		"hls": "#EXTM3U\n#EXT-X-TARGETDURATION:9\n#EXTINF:9,\n" + foreign + "\n#EXT-X-ENDLIST\n", "hls by url": "#EXTM3U\n#EXT-X-TARGETDURATION:9\n#EXTINF:9,\n" + url + "\n#EXT-X-ENDLIST\n",
		"hls with a map": "#EXTM3U\n#EXT-X-TARGETDURATION:9\n#EXT-X-MAP:URI=\"" + foreign + "\"\n#EXTINF:9,\n" + foreign + "\n", "hls master": "#EXTM3U\n#EXT-X-STREAM-INF:BANDWIDTH=1\n" + foreign + "\n",
		"hls of the web": "#EXTM3U\n#EXT-X-TARGETDURATION:9\n#EXTINF:9,\nhttp://127.0.0.1:9/x.ts\n", "hls, nested": "#EXTM3U\n#EXTINF:9,\nconcat:" + foreign + "|" + foreign + "\n", "hls, cut out": "#EXTM3U\n#EXTINF:9,\nsubfile,,start,0,end,0,,:" + foreign + "\n",
		"dash":        `<?xml version="1.0"?><MPD xmlns="urn:mpeg:dash:schema:mpd:2011" type="static" mediaPresentationDuration="PT3S"><Period><AdaptationSet mimeType="video/mp4"><Representation id="v" bandwidth="1"><BaseURL>` + foreign + `</BaseURL></Representation></AdaptationSet></Period></MPD>`,
		"dash by url": `<?xml version="1.0"?><MPD xmlns="urn:mpeg:dash:schema:mpd:2011" type="static" mediaPresentationDuration="PT3S"><BaseURL>` + url + `</BaseURL><Period><AdaptationSet><Representation id="v" bandwidth="1"/></AdaptationSet></Period></MPD>`,
		"dash of xxe": `<!DOCTYPE x [<!ENTITY f SYSTEM "` + url + `">]><MPD><Period>&f;</Period></MPD>`, "xml bomb": `<!DOCTYPE x [<!ENTITY a "` + strings.Repeat("b", 1000) + `"><!ENTITY c "` + strings.Repeat("&a;", 1000) + `">]><MPD>&c;</MPD>`,
		"concat": "ffconcat version 1.0\nfile '" + foreign + "'\n", "concat, near": "ffconcat version 1.0\nfile foreign.mp4\n", "smooth": `<SmoothStreamingMedia MajorVersion="2" Duration="1"><StreamIndex Type="video" Url="` + foreign + `"/></SmoothStreamingMedia>`,
		"sdp": "v=0\no=- 0 0 IN IP4 127.0.0.1\ns=x\nm=video 9 RTP/AVP 96\n", "playlist": "[playlist]\nFile1=" + foreign + "\n", "asx": `<asx><entry><ref href="` + foreign + `"/></entry></asx>`, "text": "a,b\n1,2\n", "html": "<html><video src='" + url + "'>",
		"svg": `<svg xmlns="http://www.w3.org/2000/svg"><image href="` + url + `"/></svg>`, "subtitles": "WEBVTT\n\n00:00.000 --> 00:01.000\nx\n", "meta": ";FFMETADATA1\ntitle=x\n", "pictures": "P6\n4 4\n255\n" + strings.Repeat("abc", 16), "gif": "GIF89a\x01\x00\x01\x00\x00\x00\x00;",
		"png": "\x89PNG\r\n\x1a\n" + strings.Repeat("x", 50), "jpeg": "\xff\xd8\xff\xe0" + strings.Repeat("x", 50), "pdf": "%PDF-1.4\n", "zip": "PK\x03\x04" + strings.Repeat("x", 50), "program": "\x7fELF" + strings.Repeat("x", 50), "script": "#!/bin/sh\ncat " + foreign + "\n",
		"nothing": "", "a byte": "x", "riff of nothing": "RIFF\xff\xff\xff\xffAVI LIST", "wave": "RIFF\x24\x00\x00\x00WAVEfmt ", "ogg": "OggS" + strings.Repeat("\x00", 60), "flv": "FLV\x01\x05\x00\x00\x00\x09", "ebml of nothing": "\x1a\x45\xdf\xa3\xff\xff\xff\xff", "ftyp of nothing": "\x00\x00\x00\x18ftypisom\x00\x00\x00\x00",
	} {
		out["list: "+name] = []byte(text)
	}
	for name, head := range map[string]string{"noise": "", "noise as mp4": "\x00\x00\x00\x18ftypisom", "noise as matroska": "\x1a\x45\xdf\xa3", "noise as avi": "RIFF\x00\x10\x00\x00AVI "} {
		raw := []byte(head)
		for range 300_000 {
			raw = append(raw, byte(dice.IntN(256)))
		}
		out[name] = raw
	}
	packets := bytes.Repeat(append([]byte{0x47}, make([]byte, 187)...), 3000)
	for i := range packets {
		if i%188 != 0 {
			packets[i] = byte(dice.IntN(256))
		}
	}
	out["noise as a transport stream"] = packets
	// Pictures that want all memory, in few bytes.
	for name, q := range map[string]struct {
		w, h    int
		options []string
	}{
		"too large":       {8192, 8192, []string{"-c:v", "libx264", "-preset", "ultrafast", "-refs", "16", "-bf", "8", "-pix_fmt", "yuv420p", "-frames:v", "18"}},
		"4K of much past": {3840, 2160, []string{"-c:v", "libx264", "-preset", "veryfast", "-refs", "16", "-bf", "8", "-pix_fmt", "yuv444p", "-frames:v", "30"}},
		"thin":            {8190, 16, []string{"-c:v", "mpeg4", "-frames:v", "5"}},
	} {
		path := filepath.Join(dir, "large.mp4")
		// Making one takes more than the program lets ffmpeg have.
		args := append([]string{"-loglevel", "error", "-y", "-i", base, "-vf", fmt.Sprintf("loop=30:1,scale=%d:%d", q.w, q.h)}, q.options...)
		if said, err := exec.Command("ffmpeg", append(args, path)...).CombinedOutput(); err != nil {
			return nil, fmt.Errorf("%s: %w: %s", name, err, said)
		}
		raw, err := os.ReadFile(path)
		if err != nil {
			return nil, err
		}
		out["large: "+name] = raw
	}
	return out, nil
}

// elsewhere is an MP4 whose pictures are said to lie in another file: a data reference
// with a path.
func elsewhere(raw []byte, path string) []byte {
	at := bytes.Index(raw, []byte("url "))
	if at < 4 {
		return raw
	}
	entry := append([]byte("url \x00\x00\x00\x00"), append([]byte("file://"+path), 0)...)
	out := append(bytes.Clone(raw[:at-4]), binary.BigEndian.AppendUint32(nil, uint32(4+len(entry)))...)
	out = append(out, entry...)
	return append(out, raw[at+8:]...)
}
