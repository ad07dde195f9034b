package web

import (
	"github.com/gin-gonic/gin"

	"ebbe/internal/desk/accounts"
	"ebbe/internal/desk/inward"
	"ebbe/internal/identity"
)

// accounts are the routes of accounts, what rests after a backup, and addresses into Ebbe.
func (s *server) accounts(in *gin.RouterGroup) {
	in.GET("/accounts", get(s, func(c *gin.Context, w identity.Who) (accounts.Accounts, error) {
		return s.d.Accounts.All(c.Request.Context(), w)
	}))
	in.GET("/accounts/servers", get(s, func(c *gin.Context, _ identity.Who) (accounts.ServersFound, error) {
		return s.d.Accounts.FindServers(c.Request.Context(), c.Query("address"))
	}))
	in.POST("/accounts/test", post(s, func(c *gin.Context, w identity.Who, _ string, v accounts.AccountDraft) (accounts.AccountTest, error) {
		return s.d.Accounts.Test(c.Request.Context(), w, v)
	}))
	in.PUT("/accounts", post(s, func(c *gin.Context, w identity.Who, key string, v accounts.AccountDraft) (accounts.AccountView, error) {
		return s.d.Accounts.Put(c.Request.Context(), w, key, v)
	}))
	in.POST("/accounts/:id/drop", post(s, func(c *gin.Context, w identity.Who, _ string, v struct {
		Anyway bool `json:"anyway"` // whatever lies in folders of Ebbe there
	}) (Done, error) {
		return Done{}, s.d.Accounts.Drop(c.Request.Context(), w, id(c, "id"), v.Anyway)
	}))
	in.POST("/accounts/:id/vanished", post(s, func(c *gin.Context, w identity.Who, _ string, v struct {
		Follow bool `json:"follow"`
	}) (Said, error) {
		text, err := s.d.Mail.SettleVanished(c.Request.Context(), w, id(c, "id"), v.Follow)
		return Said{Text: text}, err
	}))
	in.GET("/restored", get(s, func(c *gin.Context, w identity.Who) (accounts.RestoredView, error) {
		return s.d.Accounts.Restored(c.Request.Context(), w)
	}))
	in.POST("/restored", post(s, func(c *gin.Context, w identity.Who, _ string, v struct {
		What    string `json:"what"`
		Release bool   `json:"release"`
	}) (Said, error) {
		text, err := s.d.Accounts.SettleRestored(c.Request.Context(), w, v.What, v.Release)
		return Said{Text: text}, err
	}))
	own := in.Group("", ownBox) // private addresses are a person's
	own.GET("/inward", get(s, func(c *gin.Context, w identity.Who) (inward.InwardView, error) {
		return s.d.Inward.Addresses(c.Request.Context(), w, false)
	}))
	own.POST("/inward", post(s, func(c *gin.Context, w identity.Who, _ string, _ struct{}) (inward.InwardView, error) {
		return s.d.Inward.Addresses(c.Request.Context(), w, true)
	}))
}
