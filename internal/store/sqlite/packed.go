package sqlite

import (
	"bytes"
	"compress/gzip"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"reflect"

	"gorm.io/gorm/schema"
)

// packed keeps a value as JSON, and a large one as compressed JSON: the line
// of the journal about a hundred thousand conversations has their states
// before and after.
type packed struct{}

const packedFrom = 8 << 10 // bytes of JSON from which it is compressed

func init() { schema.RegisterSerializer("packed", packed{}) }

// Scan implements schema.SerializerInterface.
func (packed) Scan(ctx context.Context, field *schema.Field, dst reflect.Value, stored any) error {
	var raw []byte
	switch v := stored.(type) {
	case nil:
		return nil
	case string:
		raw = []byte(v)
	case []byte:
		raw = v
	default:
		return fmt.Errorf("%s holds a %T", field.Name, stored)
	}
	if len(raw) > 1 && raw[0] == 0x1f && raw[1] == 0x8b { // RFC 1952, section 2.3.1
		z, err := gzip.NewReader(bytes.NewReader(raw))
		if err != nil {
			return err
		}
		if raw, err = io.ReadAll(z); err != nil {
			return err
		}
	}
	into := reflect.New(field.FieldType)
	if len(raw) > 0 {
		if err := json.Unmarshal(raw, into.Interface()); err != nil {
			return err
		}
	}
	field.ReflectValueOf(ctx, dst).Set(into.Elem())
	return nil
}

// Value implements schema.SerializerValuerInterface.
func (packed) Value(_ context.Context, _ *schema.Field, _ reflect.Value, v any) (any, error) {
	raw, err := json.Marshal(v)
	if err != nil || len(raw) < packedFrom {
		return string(raw), err
	}
	var b bytes.Buffer
	z, _ := gzip.NewWriterLevel(&b, gzip.BestSpeed) // the level is a known one
	if _, err = z.Write(raw); err == nil {
		err = z.Close()
	}
	return b.Bytes(), err
}
