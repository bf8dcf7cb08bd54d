package wavekine

import (
	"go/ast"
	"go/types"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/tools/go/packages"
)

// A gin.Context is given to the next request when its own has been answered, while the database may still be looking at
// it: nothing takes one for a context.Context. What a request asks is asked with its own context.
func TestNothingHoldsAGinContext(t *testing.T) {
	ps, err := packages.Load(&packages.Config{
		Mode:       packages.NeedName | packages.NeedTypes | packages.NeedTypesInfo | packages.NeedSyntax,
		BuildFlags: []string{"-tags=nomsgpack"},
	}, "./web/...")
	require.NoError(t, err)
	require.Zero(t, packages.PrintErrors(ps))
	calls := 0
	isGin := func(of types.Type) bool { return of != nil && of.String() == "*github.com/gin-gonic/gin.Context" }
	for _, p := range ps {
		for _, f := range p.Syntax {
			ast.Inspect(f, func(n ast.Node) bool {
				call, ok := n.(*ast.CallExpr)
				if !ok {
					return true
				}
				sig, ok := p.TypesInfo.TypeOf(call.Fun).(*types.Signature)
				if !ok {
					return true
				}
				for i, arg := range call.Args {
					if !isGin(p.TypesInfo.TypeOf(arg)) || i >= sig.Params().Len() {
						continue
					}
					calls++
					want := sig.Params().At(i).Type().String()
					assert.NotEqual(t, "context.Context", want, "%s: give it c.Request.Context()", p.Fset.Position(arg.Pos()))
				}
				return true
			})
		}
	}
	assert.Greater(t, calls, 300, "the test sees the handlers")
}
