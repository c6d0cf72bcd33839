package lesson
import ("testing";"fmt")
func TestAll(t *testing.T){ for n:=range Scenes(){ c,err:=Scene(n); if err!=nil{continue}; for _,x:=range c{ for _,w:=range Audit(x){fmt.Println(w)}}}}
