package web_test
import ("testing";"fmt";"time";"sort";"os";"runtime/pprof";"corriente/internal/store")
func TestDbgQuick(t *testing.T) {
	c, _ := serve(t); c.signIn("jory")
	for _, m := range []string{"Orchard tractor 3","Delivery van Linnet","Picking cart Teasel"} {
	j := c.job(m)
	var ds []float64
	f,_ := os.Create("/tmp/quick.prof"); 
	for i := range 24 {
		if i==4 { pprof.StartCPUProfile(f) }
		from,to:="bat_pos","bat_neg"
		e := map[string]any{"id": store.NewID().String(), "measure":"voltage","state":"rest","from":from,"to":to,"value":fmt.Sprintf("12.%d V", 50+i%10), "taken_at": time.Now().UTC().Format(time.RFC3339Nano)}
		if i%2==1 { e["to"],e["from"]=from,to }
		b := time.Now()
		code := c.do("POST", "/api/jobs/"+j.ID+"/evidence?quick=true&state=rest", map[string]any{"evidence": []any{e}}, nil)
		ds = append(ds, float64(time.Since(b).Microseconds())/1000)
		if code != 200 { t.Log(code) ; break}
		time.Sleep(300*time.Millisecond)
	}
	pprof.StopCPUProfile()
	fmt.Println(m, ds)
	sort.Float64s(ds); fmt.Println("median", ds[len(ds)/2], "max", ds[len(ds)-1])
	}
}
