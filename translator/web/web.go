// Package web asks a translator that is an HTTP service: the request as the body of a POST, the reply as the body of the
// answer. Its Client serves other transports over HTTP too.
package web

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"strconv"
	"time"

	"tovrel/core/fault"
	"tovrel/translator"
)

// Client posts JSON and tells what failed.
type Client struct {
	URL     string
	Headers map[string]string
	Timeout time.Duration // of one try
	HTTP    *http.Client
}

// NewClient makes a client that keeps as many connections as there are asks at once, and follows no redirect: a secret must
// not go where it was not meant to.
func NewClient(url string, headers map[string]string, timeout time.Duration, parallel int) *Client {
	transport := http.DefaultTransport.(*http.Transport).Clone()
	transport.MaxIdleConnsPerHost, transport.MaxIdleConns = parallel, 0
	return &Client{url, headers, timeout, &http.Client{Transport: transport,
		CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}}
}

// Answer is what a service answered.
type Answer struct {
	Body        []byte
	ContentType string
	Latency     time.Duration
}

// Post sends a body and reads the whole answer. The error is *translator.Failure, or the context's.
func (c *Client) Post(ctx context.Context, body []byte) (Answer, error) {
	timed, cancel := context.WithTimeout(ctx, c.Timeout)
	defer cancel()
	start := time.Now()
	a, err := c.post(timed, body)
	a.Latency = time.Since(start)
	switch {
	case ctx.Err() != nil:
		return a, ctx.Err()
	case timed.Err() != nil:
		return a, translator.Fail(fault.NoReply, "no reply within %s", c.Timeout)
	}
	return a, err
}

func (c *Client) post(ctx context.Context, body []byte) (a Answer, err error) {
	request, err := http.NewRequestWithContext(ctx, http.MethodPost, c.URL, bytes.NewReader(body))
	if err != nil {
		return a, translator.Fail(fault.Transport, "the address %s cannot be used: %v", c.URL, err)
	}
	request.Header.Set("Content-Type", "application/json")
	request.Header.Set("Accept", "application/json, text/event-stream")
	for name, value := range c.Headers {
		request.Header.Set(name, value)
	}
	response, err := c.HTTP.Do(request)
	if err != nil {
		return a, translator.Fail(fault.Transport, "the service cannot be reached: %v", plain(err))
	}
	defer response.Body.Close() //nolint:errcheck // read to its end or given up
	a.ContentType = response.Header.Get("Content-Type")
	a.Body, err = io.ReadAll(io.LimitReader(response.Body, translator.MaxReply+1))
	switch {
	case err != nil:
		return a, translator.Fail(fault.Transport, "the service broke off its answer: %v", plain(err))
	case len(a.Body) > translator.MaxReply:
		return Answer{}, translator.Fail(fault.MalformedReply, "the reply is larger than %d MB", translator.MaxReply>>20)
	case response.StatusCode != http.StatusOK:
		return a, refused(response, a.Body)
	}
	return a, nil
}

// refused tells an answer of another status: whether to try again, and when.
func refused(response *http.Response, body []byte) error {
	f := translator.Fail(fault.Transport, "the service answered %s%s", response.Status, said(body))
	f.Again = response.StatusCode == http.StatusTooManyRequests || response.StatusCode == http.StatusRequestTimeout ||
		response.StatusCode >= 500
	if f.Again {
		f.Wait = retryAfter(response.Header.Get("Retry-After"))
	}
	return f
}

// retryAfter reads a Retry-After header: seconds, or a date.
func retryAfter(header string) time.Duration {
	if seconds, err := strconv.ParseFloat(header, 64); err == nil && seconds >= 0 {
		return time.Duration(seconds * float64(time.Second))
	}
	if at, err := http.ParseTime(header); err == nil {
		return max(0, time.Until(at))
	}
	return 0
}

func said(body []byte) string {
	line, _, _ := bytes.Cut(bytes.TrimSpace(body), []byte("\n"))
	if len(line) == 0 {
		return ""
	}
	return fmt.Sprintf(": %.200s", bytes.ToValidUTF8(line, []byte("?")))
}

// plain is an error of the HTTP library without the method and address, which every message would repeat.
func plain(err error) error {
	for inner := errors.Unwrap(err); inner != nil; inner = errors.Unwrap(err) {
		err = inner
	}
	return err
}

// Settings say what to ask.
type Settings struct {
	URL      string
	Headers  map[string]string
	Timeout  time.Duration
	Parallel int
}

// New makes an asker of the protocol over HTTP.
func New(s Settings) translator.Asker {
	return &asker{NewClient(s.URL, s.Headers, s.Timeout, s.Parallel)}
}

type asker struct{ client *Client }

func (a *asker) Close() error {
	a.client.HTTP.CloseIdleConnections()
	return nil
}

// Ask posts the request.
func (a *asker) Ask(ctx context.Context, r translator.Request) (translator.Answered, error) {
	body, err := json.Marshal(r)
	if err != nil {
		return translator.Answered{}, err
	}
	got, err := a.client.Post(ctx, body)
	answered := translator.Answered{Raw: got.Body, Latency: got.Latency}
	if err != nil {
		return answered, err
	}
	answered.Reply, err = translator.ParseReply(got.Body)
	return answered, err
}
