// Package account is about people: who may come in, what they may do, and how they find
// back in when they forgot how.
package account

import (
	"context"
	"crypto/aes"
	"crypto/cipher"
	"crypto/hmac"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"log/slog"
	"runtime"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/google/uuid"
	"github.com/trustelem/zxcvbn"

	"neokinema/internal/guard"
	"neokinema/internal/mail"
	"neokinema/internal/problem"
	"neokinema/internal/store"
)

// SignUp is who may begin a team.
type SignUp string

// Everybody, only those who were invited to a team, or nobody but the operator.
const (
	Open       SignUp = "open"
	Invitation SignUp = "invitation"
	Closed     SignUp = "closed"
)

// Config of the service.
type Config struct {
	Secret string // peppers passwords: a stolen database alone cannot be tried against
	Before string // the secret before this one; passwords move over as people sign in
	SignUp SignUp
	Public string      // address of the application, for links in letters; may be empty
	Mail   mail.Sender // nil: links are handed over by those who make them
	Log    *slog.Logger
}

// Service signs people in.
type Service struct {
	Config
	store  *store.Store
	tries  limiter
	hashes hashes
	// decoy is checked when there is no such account, so that the time taken
	// does not tell which e-mails have one.
	decoy string
}

// params of new hashes: 19 MiB and two passes, a pair that the OWASP cheat sheet on
// password storage gives for Argon2id (from memory).
var params = &argon2id.Params{Memory: 19 << 10, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// New makes the service.
func New(s *store.Store, c Config) (*Service, error) {
	if c.SignUp == "" {
		c.SignUp = Open
	}
	if c.Log == nil {
		c.Log = slog.New(slog.DiscardHandler)
	}
	a := &Service{Config: c, store: s, tries: limiter{seen: map[string]*entry{}}, hashes: make(hashes, min(hashesAtOnce, runtime.NumCPU()))}
	var err error
	a.decoy, err = argon2id.CreateHash(pepper(c.Secret, "nobody"), params)
	return a, err
}

func pepper(secret, password string) string {
	m := hmac.New(sha256.New, []byte(secret))
	m.Write([]byte(password))
	return base64.StdEncoding.EncodeToString(m.Sum(nil))
}

// hash makes what is kept of a password.
func (a *Service) hash(ctx context.Context, password string) (string, error) {
	leave, err := a.hashes.enter(ctx)
	if err != nil {
		return "", err
	}
	defer leave()
	return argon2id.CreateHash(pepper(a.Secret, password), params)
}

// matches checks a password against what is kept. stale tells that it should be kept
// anew: it was made with the secret before, or with other parameters.
func (a *Service) matches(ctx context.Context, password, hash string) (ok, stale bool, err error) {
	leave, err := a.hashes.enter(ctx)
	if err != nil {
		return false, false, err
	}
	defer leave()
	ok, p, err := argon2id.CheckHash(pepper(a.Secret, password), hash)
	if err == nil && !ok && a.Before != "" {
		ok, _, err = argon2id.CheckHash(pepper(a.Before, password), hash)
		return ok, ok, err
	}
	return ok, ok && err == nil && (p.Memory != params.Memory || p.Iterations != params.Iterations), err
}

// Credentials of one account.
type Credentials struct {
	Email    string `json:"email" format:"email" maxLength:"200"`
	Password string `json:"password" minLength:"10" maxLength:"200"`
}

// Caller is where a request comes from.
type Caller struct {
	Address string // network address
	Device  string // what [Service.Device] gave to this browser before; empty when nothing
	Agent   string // what the browser says of itself
}

func plain(email string) string { return strings.ToLower(strings.TrimSpace(email)) }

// weakest is the least that a password may be worth on the scale of zxcvbn, 0 to 4: 2
// takes more than a million guesses by somebody who knows lists of common passwords,
// keyboards, dates, and the words given along.
const weakest = 2

// strong refuses passwords that are guessed soon.
func strong(password string, known ...string) error {
	for _, k := range known {
		name, host, _ := strings.Cut(k, "@")
		known = append(known, name, strings.Split(host, ".")[0])
	}
	if zxcvbn.PasswordStrength(password, append(known, "neokinema")).Score < weakest {
		return problem.New(problem.Invalid, "This password is guessed soon: it stands on lists of common ones, or is your e-mail, a date or a row of keys. Three or four unrelated words make a good one.")
	}
	return nil
}

// SignIn checks credentials.
func (a *Service) SignIn(ctx context.Context, c Credentials, from Caller) (store.User, error) {
	email := plain(c.Email)
	u, err := a.store.UserByEmail(ctx, email)
	if err != nil && !problem.Is(err, problem.NotFound) {
		return store.User{}, err
	}
	known := err == nil && from.Device != "" && hmac.Equal([]byte(from.Device), []byte(a.Device(u.ID)))
	pair := "mail:" + email + " from:" + from.Address
	allowed := a.tries.allow("from:"+from.Address, triesByAddress)
	if known {
		pair = "mail:" + email + " known"
		allowed = a.tries.allow(pair, triesByMail) // whatever others do from the same address
	} else {
		allowed = allowed && a.tries.allow(pair, triesByMail) && a.tries.allow("for:"+email, triesForMail)
	}
	if !allowed {
		return store.User{}, problem.New(problem.TooMany, "Too many tries. Wait a minute, then sign in again.")
	}
	hash := u.Password
	if err != nil {
		hash = a.decoy
	}
	ok, stale, hashErr := a.matches(ctx, c.Password, hash)
	if hashErr != nil {
		return store.User{}, hashErr
	}
	if err != nil || !ok {
		return store.User{}, problem.New(problem.SignedOut, "E-mail and password do not fit together. Check both and try again.")
	}
	a.tries.forget(pair)
	if stale {
		if hash, err = a.hash(ctx, c.Password); err == nil {
			err = a.store.Rehash(ctx, u.ID, hash)
		}
	}
	return u, err
}

// Device is what a browser keeps once somebody was signed in on it: tries of others
// elsewhere do not keep its owner out.
func (a *Service) Device(user uuid.UUID) string {
	m := hmac.New(sha256.New, []byte(a.Secret))
	m.Write([]byte("device " + user.String()))
	return base64.RawURLEncoding.EncodeToString(m.Sum(nil))
}

// NewTeam is what it takes to begin.
type NewTeam struct {
	Team string `json:"team" minLength:"1" maxLength:"120"`
	Name string `json:"name" minLength:"1" maxLength:"120"`
	Credentials
}

// Begin makes a team with its owner. Where letters can be sent it only sends one, so
// that nobody learns here which e-mails have accounts; sent tells so.
func (a *Service) Begin(ctx context.Context, n NewTeam, from string) (u store.User, sent bool, err error) {
	switch a.SignUp {
	case Invitation:
		return u, false, problem.New(problem.Refused, "Teams are begun by invitation here. Ask your club, or who runs this server.")
	case Closed:
		return u, false, problem.New(problem.Refused, "This server takes no new teams. Ask who runs it.")
	}
	if !a.tries.allow("begin:"+from, triesToBegin) {
		return u, false, problem.New(problem.TooMany, "Too many new teams from here. Wait a minute and try again.")
	}
	if a.Mail == nil {
		u, err = a.Create(ctx, n)
		return u, false, err
	}
	n, hash, err := a.ready(ctx, n)
	if err != nil {
		return u, false, err
	}
	token, err := a.seal(pending{n.Team, n.Name, n.Email, hash, time.Now().Add(day)})
	if err != nil {
		return u, false, err
	}
	a.post(func(ctx context.Context) (mail.Letter, error) {
		if _, err := a.store.UserByEmail(ctx, n.Email); err == nil {
			return mail.Letter{To: n.Email, Subject: "You have an account already", Body: "Somebody, perhaps you, wanted to begin a team with this e-mail. There is an account with it already.\n\nSign in: " + a.Public + "/\nForgotten the password: " + a.Public + "/forgot\n"}, nil
		}
		return mail.Letter{To: n.Email, Subject: "Begin your team " + n.Team, Body: "Open this link within a day to begin the team " + n.Team + ":\n\n" + a.Public + "/begin#" + token + "\n\nIf it was not you who asked for it, do nothing.\n"}, nil
	})
	return u, true, nil
}

// Create makes a team with its owner at once.
func (a *Service) Create(ctx context.Context, n NewTeam) (store.User, error) {
	n, hash, err := a.ready(ctx, n)
	if err != nil {
		return store.User{}, err
	}
	return a.store.AddTeam(ctx, n.Team, n.Name, n.Email, hash)
}

// ready checks a new team and makes what is kept of its password.
func (a *Service) ready(ctx context.Context, n NewTeam) (NewTeam, string, error) {
	n.Team, n.Name, n.Email = strings.TrimSpace(n.Team), strings.TrimSpace(n.Name), plain(n.Email)
	if n.Team == "" || n.Name == "" {
		return n, "", problem.New(problem.Invalid, "A team and its coach need names.")
	}
	if err := strong(n.Password, n.Email, n.Name, n.Team); err != nil {
		return n, "", err
	}
	hash, err := a.hash(ctx, n.Password)
	return n, hash, err
}

const day = 24 * time.Hour

// pending is a team that waits for its letter to be answered.
type pending struct {
	Team, Name, Email, Hash string
	Until                   time.Time
}

// Confirm makes the team that a letter's link stands for.
func (a *Service) Confirm(ctx context.Context, token string) (store.User, error) {
	var p pending
	if err := a.unseal(token, &p); err != nil || time.Now().After(p.Until) {
		return store.User{}, problem.New(problem.NotFound, "This link is over. Begin the team again.")
	}
	return a.store.AddTeam(ctx, p.Team, p.Name, p.Email, p.Hash)
}

func (a *Service) sealer() (cipher.AEAD, error) {
	key := sha256.Sum256([]byte("links " + a.Secret))
	block, err := aes.NewCipher(key[:])
	if err != nil {
		return nil, err
	}
	return cipher.NewGCMWithRandomNonce(block)
}

func (a *Service) seal(v any) (string, error) {
	raw, err := json.Marshal(v)
	if err != nil {
		return "", err
	}
	c, err := a.sealer()
	if err != nil {
		return "", err
	}
	return base64.RawURLEncoding.EncodeToString(c.Seal(nil, nil, raw, nil)), nil
}

func (a *Service) unseal(token string, v any) error {
	sealed, err := base64.RawURLEncoding.DecodeString(token)
	if err != nil {
		return err
	}
	c, err := a.sealer()
	if err != nil {
		return err
	}
	raw, err := c.Open(nil, nil, sealed, nil)
	if err != nil {
		return err
	}
	return json.Unmarshal(raw, v)
}

// post writes and sends a letter beside the request, so that its time tells nothing.
func (a *Service) post(write func(ctx context.Context) (mail.Letter, error)) {
	guard.Go(func() error {
		ctx, cancel := context.WithTimeout(context.Background(), time.Minute)
		defer cancel()
		l, err := write(ctx)
		if err != nil || l.To == "" {
			return err
		}
		return a.Mail.Send(ctx, l)
	}, func(err error) {
		if err != nil {
			a.Log.Error("a letter could not be sent", "error", err)
		}
	})
}

// Secret is a fresh one for a link; only [HashOf] it is kept.
func Secret() string {
	raw := make([]byte, 24)
	_, _ = rand.Read(raw) // never fails since Go 1.24
	return base64.RawURLEncoding.EncodeToString(raw)
}

// HashOf is what is kept of a link's secret.
func HashOf(secret string) []byte {
	h := sha256.Sum256([]byte(secret))
	return h[:]
}

// invitationDays is how long an invitation may be used.
const invitationDays = 14

// InviteAthlete makes an invitation to an athlete's own account.
func (a *Service) InviteAthlete(ctx context.Context, team, athlete uuid.UUID) (secret string, err error) {
	secret = Secret()
	return secret, a.store.Invite(ctx, store.Invitation{TeamID: team, AthleteID: &athlete, ExpiresAt: time.Now().Add(invitationDays * day)}, HashOf(secret))
}

// Invite makes an invitation to work in a team, and sends it where that is possible.
func (a *Service) Invite(ctx context.Context, by store.User, email string, role store.Role) (secret string, sent bool, err error) {
	if role != store.Coach && role != store.Assistant {
		return "", false, problem.New(problem.Invalid, "One is invited as a coach or as an assistant.")
	}
	secret, email = Secret(), plain(email)
	if err := a.store.Invite(ctx, store.Invitation{TeamID: by.TeamID, Role: role, Email: email, ExpiresAt: time.Now().Add(invitationDays * day)}, HashOf(secret)); err != nil {
		return "", false, err
	}
	if a.Mail == nil || email == "" {
		return secret, false, nil
	}
	a.post(func(context.Context) (mail.Letter, error) {
		return mail.Letter{To: email, Subject: by.Name + " invites you to " + by.Team, Body: fmt.Sprintf("%s invites you to work in the team %s. Open this link within %d days and choose a password:\n\n%s/join/%s\n", by.Name, by.Team, invitationDays, a.Public, secret)}, nil
	})
	return secret, true, nil
}

// Join makes an account from an invitation.
func (a *Service) Join(ctx context.Context, secret, name string, c Credentials, from string) (store.User, error) {
	if !a.tries.allow("begin:"+from, triesToBegin) {
		return store.User{}, problem.New(problem.TooMany, "Too many new accounts from here. Wait a minute and try again.")
	}
	i, err := a.store.InvitationByHash(ctx, HashOf(secret))
	if err != nil {
		return store.User{}, err
	}
	if name = strings.TrimSpace(name); name == "" && i.AthleteID == nil {
		return store.User{}, problem.New(problem.Invalid, "Tell your name: your colleagues will see it.")
	}
	if err := strong(c.Password, plain(c.Email), name, i.Team, i.Athlete); err != nil {
		return store.User{}, err
	}
	hash, err := a.hash(ctx, c.Password)
	if err != nil {
		return store.User{}, err
	}
	return a.store.Join(ctx, HashOf(secret), name, plain(c.Email), hash)
}

// Add makes an account in a team without an invitation; for the operator.
func (a *Service) Add(ctx context.Context, team uuid.UUID, name string, c Credentials, role store.Role) (store.User, error) {
	if role != store.Owner && role != store.Coach && role != store.Assistant {
		return store.User{}, problem.New(problem.Invalid, "An account is an owner's, a coach's or an assistant's.")
	}
	if n := len([]rune(c.Password)); n < 10 || n > 200 || !strings.Contains(c.Email, "@") {
		return store.User{}, problem.New(problem.Invalid, "An account needs an e-mail and a password of 10 to 200 letters.")
	}
	if err := strong(c.Password, plain(c.Email), name); err != nil {
		return store.User{}, err
	}
	hash, err := a.hash(ctx, c.Password)
	if err != nil {
		return store.User{}, err
	}
	return a.store.AddUser(ctx, team, name, plain(c.Email), hash, role)
}

// ChangePassword replaces a password by one who knows it, and signs out everywhere but
// here.
func (a *Service) ChangePassword(ctx context.Context, u store.User, old, fresh string, here uuid.UUID) error {
	if err := a.Prove(ctx, u, old); err != nil {
		return err
	}
	return a.SetPassword(ctx, u, fresh, here)
}

// SetPassword replaces a password and ends all sessions but one.
func (a *Service) SetPassword(ctx context.Context, u store.User, fresh string, keep uuid.UUID) error {
	if n := len([]rune(fresh)); n < 10 || n > 200 {
		return problem.New(problem.Invalid, "A password has 10 to 200 letters.")
	}
	if err := strong(fresh, u.Email, u.Name, u.Team); err != nil {
		return err
	}
	hash, err := a.hash(ctx, fresh)
	if err != nil {
		return err
	}
	return a.store.SetPassword(ctx, u.ID, hash, keep)
}

// Prove asks for the password of somebody who is signed in, before what cannot be taken
// back.
func (a *Service) Prove(ctx context.Context, u store.User, password string) error {
	if !a.tries.allow("prove:"+u.ID.String(), triesByMail) {
		return problem.New(problem.TooMany, "Too many tries. Wait a minute and try again.")
	}
	ok, _, err := a.matches(ctx, password, u.Password)
	if err == nil && !ok {
		err = problem.New(problem.Refused, "This is not your password. Check it and try again.")
	}
	return err
}

// resetTime is how long a way to a new password is open.
const resetTime = 2 * time.Hour

// Forgot sends a way to a new password to an e-mail that has an account. Nothing tells
// whether it has one.
func (a *Service) Forgot(ctx context.Context, email, from string) error {
	if a.Mail == nil {
		return problem.New(problem.Refused, "This server sends no letters. The owner of your team, or who runs the server, can give you a link to a new password.")
	}
	email = plain(email)
	if !a.tries.allow("forgot:"+email, triesByMail) || !a.tries.allow("from:"+from, triesByAddress) {
		return problem.New(problem.TooMany, "Too many letters. Look into your mailbox, or wait a minute.")
	}
	a.post(func(ctx context.Context) (mail.Letter, error) {
		u, err := a.store.UserByEmail(ctx, email)
		if problem.Is(err, problem.NotFound) {
			return mail.Letter{}, nil
		}
		if err != nil {
			return mail.Letter{}, err
		}
		secret, err := a.ResetLink(ctx, u.ID)
		return mail.Letter{To: email, Subject: "A new password", Body: "Open this link within two hours to choose a new password:\n\n" + a.Public + "/reset/" + secret + "\n\nIf it was not you who asked for it, do nothing: the old one stays.\n"}, err
	})
	return nil
}

// ResetLink makes a way to a new password that somebody hands over.
func (a *Service) ResetLink(ctx context.Context, user uuid.UUID) (secret string, err error) {
	secret = Secret()
	return secret, a.store.AddReset(ctx, user, HashOf(secret), time.Now().Add(resetTime))
}

// Reset sets a new password by a link and gives whose it is. The link is used up when
// the password is taken.
func (a *Service) Reset(ctx context.Context, secret, fresh, from string) (store.User, error) {
	if !a.tries.allow("reset:"+from, triesByMail) {
		return store.User{}, problem.New(problem.TooMany, "Too many tries. Wait a minute and try again.")
	}
	id, err := a.store.ResetOf(ctx, HashOf(secret))
	if problem.Is(err, problem.NotFound) {
		return store.User{}, problem.New(problem.NotFound, "This link is over or was used. Ask for a new one.")
	} else if err != nil {
		return store.User{}, err
	}
	u, err := a.store.UserByID(ctx, id)
	if err != nil {
		return u, err
	}
	return u, a.SetPassword(ctx, u, fresh, uuid.Nil)
}
