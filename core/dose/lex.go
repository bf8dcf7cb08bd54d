package dose

import (
	"strings"
	"unicode"
	"unicode/utf8"
)

type kind uint8

const (
	end    kind = iota
	number      // 8, 2.5
	clockT      // 1:30
	tempo       // 2-2, 3-1-3
	word        // each
	symbol      // + , x and anything else
)

// token is one word of a dose with its column, counted in characters from 1.
type token struct {
	kind kind
	text string // lower case
	raw  string // as typed
	col  int
}

// lexer cuts a dose into tokens, one state function a kind of token.
type lexer struct {
	src   []rune
	pos   int
	start int
	out   []token
}

type state func(*lexer) state

func lex(text string) []token {
	l := &lexer{src: []rune(text)}
	for s := state(between); s != nil; {
		s = s(l)
	}
	l.out = append(l.out, token{kind: end, col: len(l.src) + 1})
	return l.out
}

func (l *lexer) peek() rune {
	if l.pos < len(l.src) {
		return l.src[l.pos]
	}
	return -1
}

func (l *lexer) emit(k kind) state {
	raw := string(l.src[l.start:l.pos])
	l.out = append(l.out, token{k, strings.ToLower(raw), raw, l.start + 1})
	return between
}

func between(l *lexer) state {
	for unicode.IsSpace(l.peek()) {
		l.pos++
	}
	l.start = l.pos
	switch r := l.peek(); {
	case r < 0:
		return nil
	case isDigit(r):
		return inNumber
	case unicode.IsLetter(r):
		return inWord
	default:
		l.pos++
		return l.emit(symbol)
	}
}

func inWord(l *lexer) state {
	for unicode.IsLetter(l.peek()) || l.peek() == '\'' {
		l.pos++
	}
	return l.emit(word)
}

// inNumber reads 8, 2.5, 1:30 and 3-1-3; a mark not followed by a digit is left alone.
func inNumber(l *lexer) state {
	k := number
	for {
		switch r := l.peek(); {
		case isDigit(r):
			l.pos++
			continue
		case strings.ContainsRune(".:-–", r) && r != utf8.RuneError && l.pos+1 < len(l.src) && isDigit(l.src[l.pos+1]):
			switch {
			case r == ':':
				k = clockT
			case r != '.':
				k = tempo
			}
			l.pos++
			continue
		}
		return l.emit(k)
	}
}

func isDigit(r rune) bool { return r >= '0' && r <= '9' }
