package post

import (
	"testing"

	"github.com/stretchr/testify/require"
)

func TestWhatIsOnTheOpenInternet(t *testing.T) {
	for _, a := range []string{"127.0.0.1", "10.1.2.3", "192.168.0.1", "169.254.169.254", "100.64.0.1", "100.127.255.255", "0.0.0.0", "[::1]", "[fc00::1]", "[fe80::1]", "[64:ff9b::7f00:1]", "[64:ff9b::a00:1]", "[::ffff:127.0.0.1]", "[2002:7f00:1::]", "224.0.0.1", "240.0.0.1"} {
		require.Error(t, public("tcp", a+":443", nil), a)
	}
	for _, a := range []string{"93.184.216.34", "100.128.0.1", "[2606:2800:220:1::1]"} {
		require.NoError(t, public("tcp", a+":443", nil), a)
	}
}
