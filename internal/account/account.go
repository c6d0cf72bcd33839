// Package account is about who may come in.
package account

import (
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"errors"
	"strings"
	"sync"
	"time"

	"github.com/alexedwards/argon2id"
	"golang.org/x/time/rate"

	"neokinema/internal/problem"
	"neokinema/internal/store"
)

// Service signs people in.
type Service struct {
	store  *store.Store
	secret []byte
	tries  limiter
	// decoy is checked when there is no such account, so that the time taken
	// does not tell which e-mails have one.
	decoy string
}

// New makes the service. The secret peppers passwords: a stolen database alone
// cannot be tried against.
func New(s *store.Store, secret string) (*Service, error) {
	a := &Service{store: s, secret: []byte(secret), tries: limiter{seen: map[string]*entry{}}}
	var err error
	a.decoy, err = argon2id.CreateHash(a.pepper("nobody"), argon2id.DefaultParams)
	return a, err
}

func (a *Service) pepper(password string) string {
	m := hmac.New(sha256.New, a.secret)
	m.Write([]byte(password))
	return base64.StdEncoding.EncodeToString(m.Sum(nil))
}

// Credentials of one account.
type Credentials struct {
	Email    string `json:"email" format:"email" maxLength:"200"`
	Password string `json:"password" minLength:"10" maxLength:"200"`
}

// SignIn checks credentials. from is the address they came from.
func (a *Service) SignIn(ctx context.Context, c Credentials, from string) (store.User, error) {
	email := strings.ToLower(strings.TrimSpace(c.Email))
	if !a.tries.allow("mail:"+email, triesByMail) || !a.tries.allow("from:"+from, triesByAddress) {
		return store.User{}, problem.New(problem.TooMany, "Too many tries. Wait a minute, then sign in again.")
	}
	u, err := a.store.UserByEmail(ctx, email)
	var p *problem.Problem
	if err != nil && !(errors.As(err, &p) && p.Kind == problem.NotFound) {
		return store.User{}, err
	}
	hash := u.Password
	if err != nil {
		hash = a.decoy
	}
	ok, hashErr := argon2id.ComparePasswordAndHash(a.pepper(c.Password), hash)
	if hashErr != nil {
		return store.User{}, hashErr
	}
	if err != nil || !ok {
		return store.User{}, problem.New(problem.SignedOut, "E-mail and password do not fit together. Check both and try again.")
	}
	a.tries.forget("mail:" + email)
	return u, nil
}

// NewTeam is what it takes to begin.
type NewTeam struct {
	Team string `json:"team" minLength:"1" maxLength:"120"`
	Name string `json:"name" minLength:"1" maxLength:"120"`
	Credentials
}

// Begin makes a team with its first coach.
func (a *Service) Begin(ctx context.Context, n NewTeam, from string) (store.User, error) {
	if !a.tries.allow("begin:"+from, triesByMail) {
		return store.User{}, problem.New(problem.TooMany, "Too many new teams from here. Wait a minute and try again.")
	}
	hash, err := argon2id.CreateHash(a.pepper(n.Password), argon2id.DefaultParams)
	if err != nil {
		return store.User{}, err
	}
	return a.store.AddTeam(ctx, strings.TrimSpace(n.Team), strings.TrimSpace(n.Name), strings.ToLower(strings.TrimSpace(n.Email)), hash)
}

// Hash makes what is kept of the password of a new account that somebody was invited
// to.
func (a *Service) Hash(c Credentials, from string) (string, error) {
	if !a.tries.allow("begin:"+from, triesByMail) {
		return "", problem.New(problem.TooMany, "Too many new accounts from here. Wait a minute and try again.")
	}
	return argon2id.CreateHash(a.pepper(c.Password), argon2id.DefaultParams)
}

// Tries at once; then one more every 10 seconds. A whole club may come from one
// address, so that limit is wide.
const (
	triesByMail    = 8
	triesByAddress = 100
)

type limiter struct {
	mu   sync.Mutex
	seen map[string]*entry
}

type entry struct {
	limit *rate.Limiter
	last  time.Time
}

func (l *limiter) allow(key string, atOnce int) bool {
	l.mu.Lock()
	defer l.mu.Unlock()
	now := time.Now()
	if len(l.seen) > 10_000 {
		for k, e := range l.seen {
			if now.Sub(e.last) > 10*time.Minute {
				delete(l.seen, k)
			}
		}
	}
	e := l.seen[key]
	if e == nil {
		e = &entry{limit: rate.NewLimiter(rate.Every(10*time.Second), atOnce)}
		l.seen[key] = e
	}
	e.last = now
	return e.limit.Allow()
}

func (l *limiter) forget(key string) {
	l.mu.Lock()
	defer l.mu.Unlock()
	delete(l.seen, key)
}
