package main

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"syscall"

	"ebbe/internal/store"
)

// alone holds a data folder for this program: no second one may serve it, send its mail and
// keep its accounts in step at the same time. It ends with the program at the latest.
func alone(data string) (release func(), err error) {
	if err := os.MkdirAll(data, 0o700); err != nil {
		return nil, fmt.Errorf("the data folder %s cannot be made: %w", data, err)
	}
	f, err := os.OpenFile(filepath.Join(data, "ebbe.running"), os.O_CREATE|os.O_RDWR, 0o600)
	if err != nil {
		return nil, err
	}
	if err := syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		f.Close()
		if errors.Is(err, syscall.EWOULDBLOCK) {
			return nil, fmt.Errorf("another Ebbe runs with the data folder %s: stop that first, or name another folder with --data; nothing was changed", data)
		}
		return nil, err
	}
	return func() { f.Close() }, nil
}

// openAlone opens the data of a folder that no other program serves meanwhile.
func openAlone(data string) (s *store.Store, end func(), err error) {
	release, err := alone(data)
	if err != nil {
		return nil, nil, err
	}
	if s, err = open(data); err != nil {
		release()
		return nil, nil, err
	}
	return s, func() { s.Close(); release() }, nil
}
